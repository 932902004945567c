/** The setup, its parts, drafts and revisions. */

import { call, withQuery } from "./call";

/** A part of the setup as its file has it: names with values, lists and objects. */
export type Fields = { [name: string]: unknown };

export type Thing = "models" | "lookups" | "connections" | "inlets" | "outlets" | "lanes" | "lookouts";

/** A kind of inlet, outlet or shared connection, with the schema of what can be said of one; null where there is none. */
export type Kind = {
  name: string;
  connection: { title: string; description: string } | null;
  /** The kind of shared connection that its inlets and outlets name; null if they name none. */
  shares: string | null;
  connectionCredentials: string[];
  inletCredentials: string[];
  outletCredentials: string[];
  takesApart: string;
  inlet: { title: string; description: string } | null;
  outlet: { title: string; description: string } | null;
};

export type Draft = {
  thing: Thing;
  name: string;
  by: string;
  mine: boolean;
  overtaken: boolean;
  content: Fields | null;
  basedOn: string;
  changed: string;
};

export type Part = {
  thing: Thing;
  name: string;
  content: Fields | null;
  text: string | null;
  mark: string;
  revision: number;
  drafts: Draft[];
  dependents: { thing: Thing; name: string }[];
  waiting: number;
  dead: number;
};

export type SetupProblem = { line: number; column: number; where: string; what: string };

export type Preset = {
  name: string;
  of: "inlet" | "outlet";
  title: string;
  about: string;
  blanks: { name: string; label: string; example: string }[];
  credential: string | null;
  part: Fields;
  shape: Fields | null;
};

export type Proposal = {
  outlet: Fields;
  credential: { form: string; fields: Record<string, string> } | null;
  shape: Fields;
  found: { label: string; value: string }[];
  slips: { what: string; mend: string }[];
};

export type Revision = {
  revision: number;
  adopted: string;
  adoptedBy: string;
  note: string | null;
  yaml: string;
};

export type LookupTable = {
  name: string;
  rows: Record<string, string | number | boolean>;
  otherwise: unknown;
};

/** Where something of a message seems to stand. */
export type ReadingChoice = {
  expression: string;
  value: unknown;
  why: string;
  with: Record<string, string>;
};

/** How an inlet's last message looks as if it should be read. */
export type ReadingProposal = {
  message: string;
  proposal: {
    format: string | null;
    parts: ReadingChoice[];
    device: ReadingChoice[];
    time: ReadingChoice[];
    payload: ReadingChoice[];
    sequence: ReadingChoice[];
    fields: Record<string, string | number | boolean>;
    trouble: string | null;
  };
};

const YAML = "application/yaml";

const partPath = (thing: Thing, name: string) => `/api/v1/setup/parts/${thing}/${encodeURIComponent(name)}`;

export const setup = {
  proposal: (inlet: string, one: boolean) =>
    call<ReadingProposal>(
      "GET",
      withQuery(`/api/v1/inlets/${encodeURIComponent(inlet)}/proposal`, { one: one ? "true" : "" }),
    ),
  part: (thing: Thing, name: string) => call<Part>("GET", partPath(thing, name)),
  drafts: () => call<Draft[]>("GET", "/api/v1/setup/drafts"),
  checkPart: (thing: Thing, name: string, content: Fields) =>
    call<{ problems: SetupProblem[]; warnings: SetupProblem[] }>("POST", `${partPath(thing, name)}/check`, {
      content,
    }),
  adoptPart: (
    thing: Thing,
    name: string,
    change: { content: Fields; basedOn: string | null; note?: string },
    waiting = "refuse",
    confirm = "",
  ) => call<Part>("PUT", withQuery(partPath(thing, name), { waiting, confirm }), change),
  removePart: (thing: Thing, name: string, waiting: string, confirm: string) =>
    call<{ revision: number }>("DELETE", withQuery(partPath(thing, name), { waiting, confirm })),
  switchPart: (thing: Thing, name: string, to: "open" | "close") =>
    call<Part>("POST", `${partPath(thing, name)}/${to}`, {}),
  saveDraft: (thing: Thing, name: string, content: Fields, basedOn: string) =>
    call<Draft>("PUT", `${partPath(thing, name)}/draft`, { content, basedOn }),
  discardDraft: (thing: Thing, name: string) => call<unknown>("DELETE", `${partPath(thing, name)}/draft`),
  tables: () => call<LookupTable[]>("GET", "/api/v1/lookups"),
  tableFromCsv: (name: string, csv: string) =>
    call<Fields>("POST", `/api/v1/lookups/${encodeURIComponent(name)}/csv`, csv, "text/csv"),
  presets: () => call<Preset[]>("GET", "/api/v1/presets"),
  kinds: () => call<Kind[]>("GET", "/api/v1/kinds"),
  paste: (text: string) => call<Proposal>("POST", "/api/v1/paste", { text }),
  setupRevisions: (after?: string) =>
    call<{ revisions: Revision[]; next: string | null }>(
      "GET",
      withQuery("/api/v1/setup/revisions", { after }),
    ),
  setupRevision: (revision: number) => call<Revision>("GET", `/api/v1/setup/revisions/${revision}`),
  undoTo: (revision: number, waiting: string) =>
    call<{ revision: number }>(
      "POST",
      withQuery(`/api/v1/setup/revisions/${revision}/adopt`, { waiting }),
      {},
    ),
  setupSchema: () => call<Fields>("GET", "/api/v1/setup/schema"),
  setupText: async (): Promise<{ revision: number; yaml: string }> => {
    const newest = (await setup.setupRevisions()).revisions[0];
    return newest ? setup.setupRevision(newest.revision) : { revision: 0, yaml: "" };
  },
  checkSetup: (yaml: string) =>
    call<{ good: boolean; problems: SetupProblem[]; warnings: SetupProblem[] }>(
      "POST",
      "/api/v1/setup/check",
      yaml,
      YAML,
    ),
  adoptSetup: (yaml: string, change: { basedOn: number; note: string; waiting: string }) =>
    call<{ revision: number }>("POST", withQuery("/api/v1/setup/adopt", change), yaml, YAML),
};
