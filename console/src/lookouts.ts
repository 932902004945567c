import { call, type Fields, withQuery } from "./api";

export type AlarmState = "open" | "acknowledged" | "shelved" | "cleared";

export type Alarm = {
  number: number;
  id: string;
  lookout: string;
  key: string;
  device: string | null;
  point: string | null;
  simulated: boolean;
  state: AlarmState;
  since: string;
  raised: string;
  cleared: string | null;
  cause: string | null;
  text: string;
  value: number | null;
  extreme: number | null;
  extremeAt: string | null;
  told: boolean;
  acknowledged: string | null;
  acknowledgedBy: string | null;
  shelvedUntil: string | null;
};

export type Act = {
  at: string;
  by: string;
  act: "acknowledged" | "commented" | "shelved" | "unshelved";
  text: string | null;
  until: string | null;
};

export type WholeAlarm = { alarm: Alarm; acts: Act[] };

export type Lookout = {
  name: string;
  inlets: string[];
  value: string | null;
  goesBy: string;
  on: number | null;
  off: number | null;
  perPoint: boolean;
  watched: number;
  open: number;
  lately: number;
  last: string | null;
};

export type Would = {
  key: string;
  since: string;
  raised: string;
  cleared: string | null;
  extreme: number | null;
  text: string;
};

export type Value = { at: string; value: number };

export type Rehearsed = {
  from: string;
  to: string;
  messages: number;
  cut: boolean;
  watched: number;
  alarms: Would[];
  keys: { key: string; messages: number; raised: number }[];
  shown: string | null;
  values: Value[];
};

export type Rehearsal = {
  problems: { where: string; what: string }[];
  on: number | null;
  off: number | null;
  rehearsed: Rehearsed | null;
};

export type Rehearsing = { fields?: Fields; from?: string; to?: string; device?: string; key?: string };

export const lookouts = {
  all: () => call<Lookout[]>("GET", "/api/v1/lookouts"),
  rehearse: (name: string, wish: Rehearsing) =>
    call<Rehearsal>("POST", `/api/v1/lookouts/${encodeURIComponent(name)}/rehearse`, wish),
  alarms: (query: { lookout?: string; device?: string; state?: string; after?: string }) =>
    call<{ alarms: Alarm[]; next: string | null }>("GET", withQuery("/api/v1/alarms", query)),
  alarm: (number: number) => call<WholeAlarm>("GET", `/api/v1/alarms/${number}`),
  act: (number: number, act: "acknowledge" | "comment" | "shelve" | "unshelve", what: Fields = {}) =>
    call<WholeAlarm>("POST", `/api/v1/alarms/${number}/${act}`, what),
};

export const signs = [
  ["below", "below a level"],
  ["above", "above a level"],
  ["rises", "rises fast"],
  ["falls", "falls fast"],
  ["stuck", "does not change"],
  ["silent", "silence"],
] as const;

export type Sign = (typeof signs)[number][0];

/** What a lookout goes by; `below` where it does not say. */
export const signOf = (content: Fields): Sign => signs.find(([sign]) => sign in content)?.[0] ?? "below";

const starts: Record<Sign, unknown> = {
  below: { on: 0 },
  above: { on: 0 },
  rises: { by: 5, within: "1h" },
  falls: { by: 5, within: "1h" },
  stuck: { after: "6h" },
  silent: "rhythm",
};

/** The same going by another sign, with what can be kept of its settings. */
export function going(content: Fields, sign: Sign): Fields {
  const before = signOf(content);
  const { above: _a, below: _b, rises: _r, falls: _f, stuck: _s, silent: _n, ...rest } = content;
  const alike =
    (["rises", "falls"] as Sign[]).includes(before) && (["rises", "falls"] as Sign[]).includes(sign);
  const levels =
    (["above", "below"] as Sign[]).includes(before) && (["above", "below"] as Sign[]).includes(sign);
  const kept = levels
    ? { on: (content[before] as { on?: number } | undefined)?.on ?? 0 }
    : alike
      ? content[before]
      : starts[sign];
  if (sign === "silent") {
    const { value: _v, ...without } = rest;
    return { ...without, silent: kept };
  }
  return { ...rest, [sign]: kept };
}

/** How often it would have raised, in words. */
export function howOften(rehearsed: Rehearsed): string {
  const alarms = rehearsed.alarms.length;
  const raising = rehearsed.keys.filter((one) => one.raised > 0).length;
  const many = alarms >= 500 ? "500 alarms or more" : alarms === 1 ? "1 alarm" : `${alarms} alarms`;
  if (rehearsed.watched === 0) return "The lookout watches no message of this time span.";
  if (alarms === 0) return `It would have raised no alarm for the ${rehearsed.watched} it watches.`;
  return `It would have raised ${many}, for ${raising} of the ${rehearsed.watched} it watches.`;
}
