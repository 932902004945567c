/** What the service's HTTP API gives and takes. The OpenAPI document at /api/openapi.json tells more. */

export type LaneState = { lane: string; state: DeliveryState; attempts: number };
export type DeliveryState = "waiting" | "delivered" | "dead" | "dropped";

export type Message = {
  id: string;
  received: string;
  inlet: string;
  device: string | null;
  eventTime: string | null;
  sort: string | null;
  state: "read" | "unreadable" | "unclaimed" | "duplicate";
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
  request: { method?: string; url?: string; headers?: Record<string, string> };
  body: string | null;
  answer: string | null;
};

export type LaneTrace = {
  lane: string;
  outlet: string | null;
  picked: boolean;
  pick: string | null;
  values: string | null;
  whyNot: string | null;
  state: DeliveryState | null;
  at: string | null;
  reason: string | null;
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
};

export type Trouble = "stopped" | "late" | "dead" | "waiting" | "flowing" | "quiet";

export type LaneRow = {
  lane: string;
  inlets: string[];
  outlet: string;
  pick: string | null;
  units: Record<string, string>;
  trouble: Trouble;
  outletState: "flowing" | "paused" | "broken" | "blocked";
  owes: number;
  dead: number;
  oldest: string | null;
  reason: string | null;
  since: string | null;
  nextTry: string | null;
  advice: string | null;
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
    missing: number;
  }[];
  missing: number;
};

export type Overview = {
  at: string;
  setupRevision: number;
  balance: Balance;
  dead: number;
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

export type Inlet = { name: string; kind: string; address: string; lastHour: number; lanes: string[] };

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

  constructor(status: number, title: string, detail: string) {
    super(detail);
    this.status = status;
    this.title = title;
  }
}

async function call<T>(method: string, path: string, body?: unknown, type?: string): Promise<T> {
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
  retry: (choice: DeadChoice) => call<{ count: number }>("POST", "/api/dead/retry", choice),
  drop: (choice: DeadChoice) => call<{ count: number }>("POST", "/api/dead/drop", choice),
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
  tryOutlet: (name: string) =>
    call<{ state: string }>("POST", `/api/outlets/${encodeURIComponent(name)}/try`, {}),
};
