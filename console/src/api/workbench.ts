/** Trying and rehearsing lanes. */

import { call, withQuery } from "./call";
import type { Fields, SetupProblem } from "./setup";

export type Explanation = {
  source: string;
  value: string | null;
  whyNone: string | null;
  truth: boolean | null;
  parts: Explanation[];
};

export type TriedRequest = {
  point: string | null;
  failure: string | null;
  failedAt: string | null;
  summary: string | null;
  fields: Record<string, string>;
  text: string | null;
  base64: string | null;
  size: number;
};

export type Tried = {
  problems: SetupProblem[];
  unreadable: string | null;
  subject: {
    id: string | null;
    inlet: string;
    data: unknown;
    meta: Fields;
    device: Fields;
    units: Record<string, string>;
  } | null;
  whyNot: string | null;
  becomes: string | null;
  explanation: Explanation | null;
  requests: TriedRequest[];
  warnings: string[];
};

export type Trying = {
  lane: Fields | null;
  message?: string;
  pasted?: { inlet: string; body: string; contentType: string };
  facts?: Record<string, unknown>;
  point?: string | null;
};

export type Sent = {
  message: string;
  verdict: string;
  reason: string | null;
  code: string | null;
  answer: string | null;
  micros: number;
  point: string | null;
};

export type FieldRange = {
  field: string;
  unit: string | null;
  seen: number;
  min: number | null;
  max: number | null;
  last: unknown;
  values: Record<string, number> | null;
};

export type Hits = {
  looked: number;
  taken: number;
  since: string | null;
  missing: number;
  example: string | null;
  counter: string | null;
  fields: FieldRange[];
};

export type KnownField = {
  path: string;
  kind: "number" | "text" | "bool" | "time" | "list" | "object";
  unit: string | null;
  label: string | null;
  last: unknown;
  seen: number;
  of: number;
};

export type RehearsalExample = {
  type: "gained" | "lost" | "changed" | "failing";
  message: string;
  device: string | null;
  point: string | null;
  why: string | null;
  differences: { field: string; was: string | null; now: string | null }[];
};

export type Rehearsal = {
  id: string;
  lane: string;
  started: string;
  ended: string | null;
  stopped: string | null;
  of: number;
  counts: Record<
    "looked" | "unreadable" | "took" | "takes" | "gained" | "lost" | "changed" | "same" | "failing",
    number
  >;
  memory: {
    same: boolean;
    made: number;
    passed: number;
    late: number;
    heldBack: number;
    merged: number;
    open: number;
    madeThen: number | null;
  } | null;
  examples: RehearsalExample[];
};

export const workbench = {
  tryLane: (name: string, trying: Trying) => call<Tried>("POST", `/api/v1/lanes/${name}/try`, trying),
  trial: (name: string, trying: Trying) => call<Sent>("POST", `/api/v1/lanes/${name}/trial`, trying),
  hits: (name: string, lane: Fields) =>
    call<{ problems: SetupProblem[]; hits: Hits | null }>("POST", `/api/v1/lanes/${name}/hits`, { lane }),
  knownFields: (inlets: string[], per: string) =>
    call<KnownField[]>("GET", withQuery("/api/v1/fields/known", { inlets: inlets.join(","), per })),
  rehearse: (
    name: string,
    order: { lane: Fields; last?: number; from?: string; to?: string; facts: "then" | "now" },
  ) => call<Rehearsal>("POST", `/api/v1/lanes/${name}/rehearsals`, order),
  rehearsal: (id: string) => call<Rehearsal>("GET", `/api/v1/rehearsals/${id}`),
  cancelRehearsal: (id: string) => call<void>("DELETE", `/api/v1/rehearsals/${id}`),
};
