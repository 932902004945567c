/** What the service's HTTP API gives and takes. The OpenAPI document at /api/openapi.json tells more. */

export type LaneState = { lane: string; state: DeliveryState; attempts: number };
export type DeliveryState =
  | "waiting"
  | "delivered"
  | "dead"
  | "dropped"
  | "remembered"
  | "held back"
  | "merged"
  | "unfolded";

export type Message = {
  id: string;
  received: string;
  inlet: string;
  device: string | null;
  eventTime: string | null;
  sort: string | null;
  state: "read" | "unreadable" | "unclaimed" | "duplicate" | "trial" | "made";
  reason: string | null;
  simulated: boolean;
  sequence: number | null;
  copyOf: string | null;
  bytes: number;
  preview: string;
  lanes: LaneState[];
};

export type MessagePage = { messages: Message[]; before: string | null };

export type Attempt = {
  number: number;
  at: string;
  micros: number;
  verdict: string;
  reason: string | null;
  status: number | null;
  nextTry: string | null;
  setupRevision: number;
  outlet: string;
  lane: string;
  point: string | null;
  request: {
    method?: string;
    url?: string;
    headers?: Record<string, string>;
    batch?: { batch: string; messages: number; number: number };
  };
  body: string | null;
  answer: string | null;
};

export type LaneTrace = {
  lane: string;
  point: string | null;
  outlet: string | null;
  picked: boolean;
  pick: string | null;
  values: string | null;
  whyNot: string | null;
  state: DeliveryState | null;
  at: string | null;
  reason: string | null;
  into: string | null;
  attempts: Attempt[];
};

export type Trace = {
  message: Message;
  came: {
    remote: string;
    path: string;
    contentType: string | null;
    headers: Record<string, string>;
    text: string | null;
    base64: string | null;
  };
  data: unknown;
  meta: Record<string, unknown>;
  device: Record<string, unknown>;
  setupRevision: number;
  units: Record<string, string>;
  copies: { id: string; received: string; gateway: string | null }[];
  lanes: LaneTrace[];
  trials: Attempt[];
  madeOf: string[];
  unfoldedInto: string[];
  alarms: { number: number; lookout: string; state: string; text: string; cause: string | null }[];
};

export type Trouble = "stopped" | "late" | "dead" | "waiting" | "closed" | "flowing" | "quiet";

export type LaneRow = {
  lane: string;
  inlets: string[];
  outlet: string;
  state: "open" | "closed";
  pick: string | null;
  units: Record<string, string>;
  trouble: Trouble;
  outletState: "flowing" | "paused" | "broken" | "blocked" | "closed";
  owes: number;
  dead: number;
  oldest: string | null;
  reason: string | null;
  since: string | null;
  nextTry: string | null;
  advice: string | null;
  lastError: { at: string; reason: string; message: string } | null;
  traffic: { taken: number[]; delivered: number[]; failed: number[] };
};

export type Balance = {
  from: string;
  to: string;
  intake: {
    acknowledged: number;
    read: number;
    unreadable: number;
    unclaimed: number;
    duplicates: number;
    spooled: number;
    untaken: number;
    unacknowledged: number;
    missing: number;
  };
  lanes: {
    lane: string;
    taken: number;
    delivered: number;
    dead: number;
    dropped: number;
    waiting: number;
    inFlight: number;
    heldBack: number;
    merged: number;
    remembered: number;
    missing: number;
  }[];
  missing: number;
};

export type Overview = {
  at: string;
  setupRevision: number;
  balance: Balance;
  dead: number;
  alarms: number;
  lanes: LaneRow[];
};

export type DeadLetter = {
  delivery: string;
  message: string;
  lane: string;
  outlet: string;
  device: string | null;
  attempts: number;
  died: string;
  cause: string;
  reason: string;
  simulated: boolean | null;
};

export type DeadGroup = {
  lane: string;
  outlet: string;
  cause: string;
  count: number;
  first: string;
  last: string;
};

export type Dead = { total: number; groups: DeadGroup[]; letters: DeadLetter[] };

export type Inlet = {
  name: string;
  kind: string;
  state: "open" | "closed";
  address: string | null;
  credential: string | null;
  lastHour: number;
  lanes: string[];
};

export type Outlet = {
  name: string;
  kind: string;
  to: Fields;
  preset: string | null;
  state: "flowing" | "paused" | "broken" | "blocked" | "closed";
  reason: string | null;
  since: string | null;
  nextProbe: string | null;
  inFlight: number;
  waiting: number;
  heldDevices: number;
  held: { device: string; reason: string; since: string; until: string }[];
  batch: { messages: number; bytes: number; waitMillis: number; as: string; answers: string | null } | null;
  pace: { perSecond: number | null; perDay: number | null; perMonth: number | null } | null;
  used: { ofDay: number; ofMonth: number } | null;
  lanes: string[];
  traffic: {
    dayMessages: number;
    dayBytes: number;
    weekMessages: number;
    weekBytes: number;
    monthMessages: number;
    monthBytes: number;
    first: string | null;
  };
  price: { currency: string | null; message: number; megabyte: number; month: number } | null;
  monthly: number | null;
};

/** A part of the setup as its file has it: names with values, lists and objects. */
export type Fields = { [name: string]: unknown };

export type Thing = "models" | "tables" | "inlets" | "outlets" | "lanes" | "lookouts";

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
  method: string | null;
  address: string | null;
  head: string | null;
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
  status: number | null;
  answer: string | null;
  micros: number;
  point: string | null;
};

export type FieldRange = {
  field: string;
  unit: string | null;
  seen: number;
  least: number | null;
  most: number | null;
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
  sort: "gained" | "lost" | "changed" | "failing";
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
  sort: "curl" | "request" | "url" | "json";
  to: Fields;
  credential: { form: string; name: string; secret: string } | null;
  shape: Fields;
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

export type Credential = { name: string; form: string };

export type DeviceState = "unheard" | "live" | "silent" | "barred";
export type Facts = Record<string, string | number | boolean>;

/** What people know of a device. */
export type Knowledge = {
  model: string | null;
  facts: Facts;
  points: Record<string, { reference: string | null; facts: Facts }>;
  zone: string | null;
  born: string | null;
  silentAfter: string | null;
};

export type Device = Knowledge & {
  key: string;
  revision: number;
  simulated: boolean;
  state: DeviceState;
  firstHeard: string | null;
  lastHeard: string | null;
  messages: number;
  missing: number;
  restarts: number;
  values: Record<string, { value: string | number | boolean; at: string }> | null;
  shows: Record<string, string | number>;
  gateway: Record<string, string | number>;
  silentAfterSeconds: number | null;
};

export type Series = {
  field: string;
  unit: string | null;
  points: { at: string; value: number; message: string }[];
  more: boolean;
};

export type Gap = {
  inlet: string;
  at: string;
  before: number;
  after: number;
  missing: number;
  message: string;
};

export type FieldSeen = {
  inlet: string;
  model: string;
  name: string;
  kind: string;
  last: string;
  least: number | null;
  most: number | null;
  count: number;
  firstSeen: string;
  lastSeen: string;
};

export type Model = {
  name: string;
  codec: "script" | "layout" | null;
  source: string | null;
  fields: Record<
    string,
    { label: string | null; unit: string | null; least: number | null; most: number | null }
  >;
  points: Record<string, { fields: Record<string, string>; facts: Facts }>;
  facts: Facts;
  silentAfter: string | null;
  devices: number;
  seen: FieldSeen[];
};

export type SetupProblem = { line: number; column: number; where: string; what: string };

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

export type Position = {
  geometry: { coordinates: [number, number] };
  properties: { sort: "device" | "gateway"; name: string; gateway?: string };
};

export type TableResult = {
  changed: number;
  entered: number;
  misfits: { line: number; column: string; what: string }[];
};

/** A call that did not succeed, as problem details (RFC 9457) tell it. */
export class Problem extends Error {
  readonly status: number;
  readonly title: string;
  /** Further members of the problem: the field at fault, the problems of a setup, what waits. */
  readonly more: Record<string, unknown>;

  constructor(status: number, title: string, detail: string, more: Record<string, unknown> = {}) {
    super(detail);
    this.status = status;
    this.title = title;
    this.more = more;
  }
}

export async function call<T>(method: string, path: string, body?: unknown, type?: string): Promise<T> {
  const headers: Record<string, string> = { Accept: "application/json" };
  if (body !== undefined) headers["Content-Type"] = type ?? "application/json";
  const token = document.cookie.match(/(?:^|; )XSRF-TOKEN=([^;]*)/)?.[1];
  if (method !== "GET" && token) headers["X-XSRF-TOKEN"] = decodeURIComponent(token);
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      headers,
      body: body === undefined ? undefined : type ? String(body) : JSON.stringify(body),
    });
  } catch {
    throw new Problem(0, "Not reached", "The service does not answer. Does it still run?");
  }
  if (!response.ok) {
    const problem = await response.json().catch(() => ({}));
    throw new Problem(
      response.status,
      problem.title ?? "Refused",
      problem.detail ?? `The service answered ${response.status}.`,
      problem,
    );
  }
  return response.status === 204 ? (undefined as T) : response.json();
}

/** A path with its query; what is empty is left out. */
export function withQuery(
  path: string,
  parameters: Record<string, string | number | null | undefined>,
): string {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(parameters)) {
    if (value !== null && value !== undefined && value !== "") query.set(name, String(value));
  }
  const text = query.toString();
  return text === "" ? path : `${path}?${text}`;
}

const partPath = (thing: Thing, name: string) => `/api/setup/parts/${thing}/${encodeURIComponent(name)}`;

export type DeadChoice = {
  deliveries?: string[];
  lane?: string;
  cause?: string;
  outlet?: string;
  all?: boolean;
};

export const api = {
  session: () => call<{ name: string | null }>("GET", "/api/session"),
  signIn: (name: string, password: string) =>
    call<{ name: string }>("POST", "/api/session", { name, password }),
  signOut: () => call<void>("DELETE", "/api/session"),
  overview: () => call<Overview>("GET", "/api/overview"),
  inlets: () => call<Inlet[]>("GET", "/api/inlets"),
  messages: (parameters: Record<string, string | number | null | undefined>) =>
    call<MessagePage>("GET", withQuery("/api/messages", parameters)),
  trace: (id: string) => call<Trace>("GET", `/api/messages/${encodeURIComponent(id)}`),
  dead: (lane: string, cause: string) =>
    call<Dead>("GET", withQuery("/api/dead", { lane, cause, limit: 500 })),
  devices: () => call<Device[]>("GET", "/api/devices"),
  device: (key: string) => call<Device>("GET", withQuery("/api/devices/one", { key })),
  know: (key: string, knowledge: Knowledge) =>
    call<Device>("PUT", withQuery("/api/devices/one", { key }), knowledge),
  forget: (key: string) => call<void>("DELETE", withQuery("/api/devices/one", { key })),
  bar: (key: string, barred: boolean) =>
    call<Device>("POST", withQuery("/api/devices/bar", { key, barred: String(barred) }), {}),
  claim: (key: string, knowledge: Knowledge) =>
    call<Rereading>("POST", withQuery("/api/devices/claim", { key }), knowledge),
  revisions: (key: string) =>
    call<{ revision: number; knowledge: Knowledge; until: string; by: string }[]>(
      "GET",
      withQuery("/api/devices/revisions", { key }),
    ),
  series: (key: string, field: string, from: string) =>
    call<Series>("GET", withQuery("/api/devices/series", { key, field, from })),
  gaps: (key: string, from: string) => call<Gap[]>("GET", withQuery("/api/devices/gaps", { key, from })),
  positions: () => call<{ features: Position[] }>("GET", "/api/devices/positions"),
  takeTable: (csv: string, dry: boolean) =>
    call<TableResult>("POST", withQuery("/api/devices/table", { dry: String(dry) }), csv, "text/csv"),
  models: () => call<Model[]>("GET", "/api/models"),
  fields: () => call<FieldSeen[]>("GET", "/api/fields"),
  tryCodec: (trial: { sort: string; source: string; bytes: string; port: number | null }) =>
    call<CodecTrial>("POST", "/api/codecs/try", trial),
  attach: (model: string, codec: { sort: string; source: string; note: string }) =>
    call<{ revision: number }>("PUT", `/api/models/${encodeURIComponent(model)}/codec`, codec),
  reread: (order: {
    from: string;
    model?: string;
    inlet?: string;
    state?: string;
    correct: boolean;
    dry: boolean;
  }) => call<Rereading>("POST", "/api/rereadings", order),
  rereading: (id: string) => call<Rereading>("GET", `/api/rereadings/${id}`),
  outlets: () => call<Outlet[]>("GET", "/api/outlets"),
  lanes: () => call<LaneRow[]>("GET", "/api/lanes"),
  part: (thing: Thing, name: string) => call<Part>("GET", partPath(thing, name)),
  drafts: () => call<Draft[]>("GET", "/api/setup/drafts"),
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
  tryLane: (name: string, trying: Trying) => call<Tried>("POST", `/api/lanes/${name}/try`, trying),
  trial: (name: string, trying: Trying) => call<Sent>("POST", `/api/lanes/${name}/trial`, trying),
  hits: (name: string, lane: Fields) =>
    call<{ problems: SetupProblem[]; hits: Hits | null }>("POST", `/api/lanes/${name}/hits`, { lane }),
  knownFields: (inlets: string[], per: string) =>
    call<KnownField[]>("GET", withQuery("/api/fields/known", { inlets: inlets.join(","), per })),
  rehearse: (
    name: string,
    order: { lane: Fields; last?: number; from?: string; to?: string; facts: "then" | "now" },
  ) => call<Rehearsal>("POST", `/api/lanes/${name}/rehearsals`, order),
  rehearsal: (id: string) => call<Rehearsal>("GET", `/api/rehearsals/${id}`),
  cancelRehearsal: (id: string) => call<void>("DELETE", `/api/rehearsals/${id}`),
  tables: () => call<LookupTable[]>("GET", "/api/tables"),
  tableFromCsv: (name: string, csv: string) =>
    call<Fields>("POST", `/api/tables/${encodeURIComponent(name)}/csv`, csv, "text/csv"),
  presets: () => call<Preset[]>("GET", "/api/presets"),
  paste: (text: string) => call<Proposal>("POST", "/api/paste", { text }),
  setupRevisions: () => call<Revision[]>("GET", "/api/setup/revisions"),
  setupRevision: (revision: number) => call<Revision>("GET", `/api/setup/revisions/${revision}`),
  undoTo: (revision: number, waiting: string) =>
    call<{ revision: number }>("POST", withQuery(`/api/setup/revisions/${revision}/adopt`, { waiting }), {}),
  setupSchema: () => call<Fields>("GET", "/api/setup/schema"),
  credentials: () => call<Credential[]>("GET", "/api/credentials"),
  saveCredential: (name: string, fields: Record<string, string>) =>
    call<{ name: string; notices: string[] }>("PUT", `/api/credentials/${name}`, fields),
  makeSecret: (name: string, form: string) =>
    call<{ name: string; form: string; secret: string }>(
      "POST",
      withQuery(`/api/credentials/${name}`, { form }),
      {},
    ),
  rotateSecret: (name: string, overlap: string) =>
    call<{ name: string; form: string; secret: string; until: string }>(
      "POST",
      withQuery(`/api/credentials/${name}/rotate`, { overlap }),
      {},
    ),
  deviceLanes: (key: string) =>
    call<{ lane: string; serves: boolean; whyNot: string | null; handPicked: boolean; state: string }[]>(
      "GET",
      withQuery("/api/devices/lanes", { key }),
    ),
  tryOutlet: (name: string) =>
    call<{ state: string }>("POST", `/api/outlets/${encodeURIComponent(name)}/try`, {}),
};
