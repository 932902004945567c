import { type Balance, call, type DeadChoice, withQuery } from "./api";

/** Jobs that people started. */
export type Job = {
  id: string;
  name: string;
  what:
    | "retry"
    | "drop"
    | "replay"
    | "look"
    | "mend"
    | "introduce"
    | "compare-introduced"
    | "remove-introduced";
  terms: Record<string, unknown>;
  by: string;
  begun: string;
  ended: string | null;
  state: "running" | "done" | "failed" | "cancelled";
  expected: number | null;
  done: number;
  note: string | null;
  undoUntil: string | null;
  undone: string | null;
};

export type ReplayTerms = {
  lane: string;
  outlet: string | null;
  from: string;
  to: string | null;
  device: string | null;
  where: string | null;
  sameKey: boolean;
  perSecond: number | null;
};

export type ReplayPreview = {
  messages: number;
  deliveries: number;
  first: string | null;
  last: string | null;
  sample: string[];
  note: string | null;
};

export type Difference = { message: string; received: string; lane: string | null; what: string };

export type OwnTrouble = { what: string; name: string; since: string; text: string };

export type Spool = {
  node: string;
  messages: number;
  bytes: number;
  most: number;
  oldest: string | null;
  trouble: string | null;
  diskFree: number;
  at: string;
  here: boolean;
};

export type Status = {
  troubles: OwnTrouble[];
  nodes: { id: string; name: string; started: string; leaseUntil: string | null; self: boolean }[];
  spools: Spool[];
  databaseAway: boolean;
};

export type Kept = {
  what: string;
  days: number;
  limit: number;
  bytes: number;
  perDay: number;
  forecast: number | null;
};

type Done = { count: number; job: Job };

export type Content = {
  texts: Record<string, string>;
  named: Record<string, NamedValue[]>;
  contentType: string | null;
  body: string;
};

export type NamedValue = { name: string; value: string };

export const delivery = {
  status: () => call<Status>("GET", "/api/v1/status"),
  jobs: (after?: string) =>
    call<{ jobs: Job[]; next: string | null }>("GET", withQuery("/api/v1/jobs", { after })),
  cancel: (id: string) => call<Job>("POST", `/api/v1/jobs/${id}/cancel`, {}),
  undo: (id: string) => call<{ count: number }>("POST", `/api/v1/jobs/${id}/undo`, {}),
  preview: (terms: ReplayTerms) => call<ReplayPreview>("POST", "/api/v1/replays/preview", terms),
  replay: (terms: ReplayTerms) => call<Job>("POST", "/api/v1/replays", terms),
  retry: (choice: DeadChoice, to?: string) =>
    call<Done>("POST", withQuery("/api/v1/dead/retry", to ? { to } : {}), choice),
  drop: (choice: DeadChoice) => call<Done>("POST", "/api/v1/dead/drop", choice),
  content: (id: string) => call<Content>("GET", `/api/v1/dead/${id}/content`),
  editRetry: (id: string, content: Content) => call<Done>("POST", `/api/v1/dead/${id}/edit-retry`, content),
  balance: (from: string, to: string) => call<Balance>("GET", withQuery("/api/v1/balance", { from, to })),
  storage: () => call<{ kept: Kept[] }>("GET", "/api/v1/storage"),
  differences: (from: string, to: string) =>
    call<Difference[]>("GET", withQuery("/api/v1/balance/differences", { from, to })),
};
