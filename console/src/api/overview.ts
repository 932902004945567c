/** How inlets, lanes and outlets stand. */

import { call, withQuery } from "./call";
import type { Fields } from "./setup";

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
    deferred: number;
    duplicates: number;
    /** Counted only, as their inlets ask for. */
    ignored: number;
    spooled: number;
    /** Arrivals that were taken apart, and the messages that were in them. */
    whole: number;
    parts: number;
    unrouted: number;
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
  /** When what lanes owe was counted: some seconds ago where that takes long. */
  countedAt: string;
  setupRevision: number;
  balance: Balance;
  dead: number;
  alarms: number;
  lanes: LaneRow[];
};

export type Inlet = {
  name: string;
  kind: string;
  state: "open" | "closed";
  address: string | null;
  credential: string | null;
  lastHour: number;
  /** Of those, the messages it only counted. */
  ignored: number;
  lanes: string[];
  own: boolean;
  addressIsPath: boolean;
  /** By which senders reach the service; null if nobody said. */
  publicAddress: string | null;
  exampleCommand: string | null;
  connection: ConnectionStatus | null;
  /** The connection that it shares with others; null if it shares none. */
  shares: string | null;
};

/** How an inlet, an outlet or what they share stands on the node that answers. */
export type ConnectionStatus = {
  state: string;
  reason: string | null;
  since: string;
  lastGood: string | null;
};

/** A step of the look whether an outlet would work. */
export type CheckStep = {
  step: string;
  result: "passed" | "failed" | "uncertain";
  told: string;
  mend: string | null;
  /** Settings that would mend it, for a person to agree to. */
  offer: { act: string; shows: string[]; settings: Fields } | null;
  micros: number;
};

/** Something that happened to an inlet or outlet. */
export type DiaryLine = { at: string; node: string; line: string; detail: string | null };

export type Outlet = {
  name: string;
  kind: string;
  address: string;
  to: Fields;
  /** The connection that it shares with others; null if it shares none. */
  shares: string | null;
  /** Null if it holds none open. */
  connection: ConnectionStatus | null;
  preset: string | null;
  state: "flowing" | "paused" | "broken" | "blocked" | "closed";
  reason: string | null;
  since: string | null;
  nextProbe: string | null;
  inFlight: number;
  waiting: number;
  heldDevices: number;
  held: { device: string; reason: string; since: string; until: string }[];
  batch: {
    messages: number;
    bytes: number;
    waitMillis: number;
    as: string | null;
    answers: string | null;
  } | null;
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

/** What became of one series or metric that an outlet writes. */
export type TagCounts = {
  name: string;
  found: number;
  wanted: number;
  written: number;
  refused: number;
  waiting: number;
  last: string | null;
  value: unknown;
};

export type Tags = {
  known: boolean;
  since: string | null;
  messages: number;
  more: boolean;
  tags: TagCounts[];
};

export const overview = {
  overview: () => call<Overview>("GET", "/api/v1/overview"),
  lanes: () => call<LaneRow[]>("GET", "/api/v1/lanes"),
  inlets: () => call<Inlet[]>("GET", "/api/v1/inlets"),
  outlets: () => call<Outlet[]>("GET", "/api/v1/outlets"),
  tags: (outlet: string) => call<Tags>("GET", `/api/v1/outlets/${encodeURIComponent(outlet)}/tags`),
  diary: (of: "inlets" | "outlets" | "connections", name: string) =>
    call<DiaryLine[]>("GET", `/api/v1/${of}/${encodeURIComponent(name)}/diary`),
  /** @param fields as a setup file has them; the active ones if not given */
  check: (of: "inlets" | "outlets" | "connections", name: string, fields?: Fields) =>
    call<CheckStep[]>("POST", `/api/v1/${of}/${encodeURIComponent(name)}/check`, { fields }),
  /** The parts of the sample that are in the setup. */
  sample: () => call<{ parts: string[] }>("GET", "/api/v1/sample"),
  loadSample: () => call<{ parts: string[] }>("POST", "/api/v1/sample", {}),
  removeSample: () => call<{ parts: string[] }>("DELETE", "/api/v1/sample"),
  tryDevices: (outlet: string, device?: string) =>
    call<{ devices: string[] }>(
      "POST",
      withQuery(`/api/v1/outlets/${encodeURIComponent(outlet)}/try-devices`, { device }),
      {},
    ),
  tryOutlet: (name: string) =>
    call<{ state: string }>("POST", `/api/v1/outlets/${encodeURIComponent(name)}/try`, {}),
};
