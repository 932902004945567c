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
  state: "read" | "unreadable";
  reason: string | null;
  simulated: boolean;
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
  lanes: LaneTrace[];
};

export type Trouble = "stopped" | "late" | "dead" | "waiting" | "flowing" | "quiet";

export type LaneRow = {
  lane: string;
  inlets: string[];
  outlet: string;
  pick: string | null;
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

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const headers: Record<string, string> = { Accept: "application/json" };
  if (body !== undefined) headers["Content-Type"] = "application/json";
  const token = document.cookie.match(/(?:^|; )XSRF-TOKEN=([^;]*)/)?.[1];
  if (method !== "GET" && token) headers["X-XSRF-TOKEN"] = decodeURIComponent(token);
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      headers,
      body: body === undefined ? undefined : JSON.stringify(body),
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
  tryOutlet: (name: string) =>
    call<{ state: string }>("POST", `/api/outlets/${encodeURIComponent(name)}/try`, {}),
};
