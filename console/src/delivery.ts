import { type Balance, call, type DeadChoice, withQuery } from "./api";

/** What people had done to many things at once. */
export type Undertaking = {
  id: string;
  name: string;
  what: "retry" | "drop" | "replay" | "look" | "mend";
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

type Done = { count: number; undertaking: Undertaking };

export type Content = {
  path: string;
  query: { name: string; value: string }[];
  headers: Record<string, string>;
  contentType: string | null;
  body: string;
};

export const delivery = {
  status: () => call<Status>("GET", "/api/status"),
  undertakings: () => call<Undertaking[]>("GET", "/api/undertakings"),
  cancel: (id: string) => call<Undertaking>("POST", `/api/undertakings/${id}/cancel`, {}),
  undo: (id: string) => call<{ count: number }>("POST", `/api/undertakings/${id}/undo`, {}),
  preview: (terms: ReplayTerms) => call<ReplayPreview>("POST", "/api/replays/preview", terms),
  replay: (terms: ReplayTerms) => call<Undertaking>("POST", "/api/replays", terms),
  retry: (choice: DeadChoice, to?: string) =>
    call<Done>("POST", withQuery("/api/dead/retry", to ? { to } : {}), choice),
  drop: (choice: DeadChoice) => call<Done>("POST", "/api/dead/drop", choice),
  content: (id: string) => call<Content>("GET", `/api/dead/${id}/content`),
  editRetry: (id: string, content: Content) => call<Done>("POST", `/api/dead/${id}/edit-retry`, content),
  balance: (from: string, to: string) => call<Balance>("GET", withQuery("/api/balance", { from, to })),
  storage: () => call<{ kept: Kept[] }>("GET", "/api/storage"),
  differences: (from: string, to: string) =>
    call<Difference[]>("GET", withQuery("/api/balance/differences", { from, to })),
};
