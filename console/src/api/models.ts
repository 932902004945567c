/** Models, codecs, the fields seen, and reading again. */

import { call } from "./call";
import type { Facts } from "./devices";
import type { SetupProblem } from "./setup";

export type FieldSeen = {
  inlet: string;
  model: string;
  name: string;
  kind: string;
  last: string;
  min: number | null;
  max: number | null;
  count: number;
  firstSeen: string;
  lastSeen: string;
  /** What its sender says of it. */
  described: { type: string | null; unit: string | null; properties: Record<string, unknown> } | null;
};

export type Model = {
  name: string;
  codec: "script" | "layout" | null;
  source: string | null;
  fields: Record<
    string,
    { label: string | null; unit: string | null; min: number | null; max: number | null }
  >;
  points: Record<string, { fields: Record<string, string>; facts: Facts }>;
  facts: Facts;
  silentAfter: string | null;
  devices: number;
  seen: FieldSeen[];
};

export type CodecTrial = {
  problems: SetupProblem[];
  bytes: string;
  data: Record<string, unknown>;
  warnings: string[];
  errors: string[];
  micros: number;
};

export type Rereading = {
  id: string;
  ended: string | null;
  seen: number;
  read: number;
  still: number;
  picked: number;
  corrected: number;
  failure: string | null;
};

export const models = {
  models: () => call<Model[]>("GET", "/api/v1/models"),
  fields: () => call<FieldSeen[]>("GET", "/api/v1/fields"),
  tryCodec: (trial: { type: string; source: string; bytes: string; port: number | null }) =>
    call<CodecTrial>("POST", "/api/v1/codecs/try", trial),
  attach: (model: string, codec: { type: string; source: string; note: string }) =>
    call<{ revision: number }>("PUT", `/api/v1/models/${encodeURIComponent(model)}/codec`, codec),
  reread: (order: {
    from: string;
    model?: string;
    inlet?: string;
    state?: string;
    correct: boolean;
    dry: boolean;
  }) => call<Rereading>("POST", "/api/v1/rereadings", order),
  rereading: (id: string) => call<Rereading>("GET", `/api/v1/rereadings/${id}`),
};
