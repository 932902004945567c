import { call, withQuery } from "./api";
import type { Job } from "./delivery";

export type Missing = {
  device: string;
  inlet: string;
  first: number;
  last: number;
  at: string;
  message: string;
  late: number;
};

/** What is in an incident's span; or, of what was done, what it was done to. */
export type Findings = {
  messages: number;
  delivered: number;
  waiting: number;
  unread: number;
  readable: number;
  dead: Record<string, number>;
  unrouted: Record<string, number>;
  revisions: Record<string, number>;
  overtaken: number;
  examples: Record<string, string[]>;
  missing: Missing[];
};

export type Act = "read" | "retry" | "take" | "wrong";

export type Proposal = { act: Act; count: number; what: string; order: string; doubles: string };

export type Revision = {
  revision: number;
  adopted: string | null;
  by: string | null;
  note: string | null;
  active: boolean;
  deliveries: number;
};

export type Acts = { read: boolean; retry: boolean; take: boolean; wrong: number[] };

export type Incident = {
  number: number;
  title: string;
  outlet: string | null;
  device: string | null;
  since: string;
  until: string;
  by: string;
  marked: string;
  state: "looking" | "marked" | "mending" | "mended";
  progress: Job | null;
  findings: Findings;
  revisions: Revision[];
  proposals: Proposal[];
  acts: Acts | null;
  before: Findings | null;
  acted: Findings | null;
};

export type About = { outlet: string } | { device: string };

export type History = { eachMillis: number; stretches: { at: string; well: number; ill: number }[] };

export const incidents = {
  list: (after?: string) =>
    call<{ incidents: Incident[]; next: string | null }>("GET", withQuery("/api/v1/incidents", { after })),
  find: (number: string) => call<Incident>("GET", `/api/v1/incidents/${number}`),
  history: (about: About, from: string, to: string) =>
    call<History>("GET", withQuery("/api/v1/incidents/history", { ...about, from, to })),
  mark: (mark: About & { title: string; since: string; until: string }) =>
    call<Incident>("POST", "/api/v1/incidents", mark),
  look: (number: number) => call<Incident>("POST", `/api/v1/incidents/${number}/look`, {}),
  mend: (number: number, acts: Acts) => call<Incident>("POST", `/api/v1/incidents/${number}/mend`, acts),
  forget: (number: number) => call<void>("DELETE", `/api/v1/incidents/${number}`),
};

export const total = (counts: Record<string, number>) =>
  Object.values(counts).reduce((sum, one) => sum + one, 0);

/** How many messages never came. */
export const neverCame = (findings: Findings) =>
  findings.missing.reduce((sum, one) => sum + one.last - one.first + 1 - one.late, 0);

/** A span between two times, whichever was first, in whole stretches of this length. */
export function span(one: number, other: number, eachMillis: number): { since: number; until: number } {
  return { since: Math.min(one, other), until: Math.max(one, other) + eachMillis };
}
