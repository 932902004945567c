/** How values are written for people. */

const clock = new Intl.DateTimeFormat(undefined, {
  hour: "2-digit",
  minute: "2-digit",
  second: "2-digit",
  hourCycle: "h23",
});
const day = new Intl.DateTimeFormat(undefined, { day: "numeric", month: "short" });
const whole = new Intl.NumberFormat("en");

/** A count with its thousands apart. */
export const count = (value: number): string => whole.format(value);

/** The noun in the number that fits the count. */
export const plural = (value: number, one: string, many: string): string =>
  `${count(value)} ${value === 1 ? one : many}`;

/** The time of day, with the day in front if it is not today. */
export function time(instant: string, now: Date = new Date()): string {
  const at = new Date(instant);
  const today = at.toDateString() === now.toDateString();
  return today ? clock.format(at) : `${day.format(at)} ${clock.format(at)}`;
}

/** An instant with its date and zone, to the millisecond, as the viewer's machine counts time. */
export function exactTime(instant: string, zone?: string): string {
  return new Intl.DateTimeFormat("en-GB", {
    year: "numeric",
    month: "short",
    day: "numeric",
    hour: "2-digit",
    minute: "2-digit",
    second: "2-digit",
    fractionalSecondDigits: 3,
    timeZoneName: "short",
    timeZone: zone,
  }).format(new Date(instant));
}

/** A length of time in its largest unit. */
export function length(millis: number): string {
  const seconds = Math.round(millis / 1000);
  if (seconds < 120) return `${seconds} s`;
  if (seconds < 7200) return `${Math.floor(seconds / 60)} min`;
  if (seconds < 172_800) return `${Math.floor(seconds / 3600)} h`;
  return `${Math.floor(seconds / 86_400)} days`;
}

/** How long ago an instant was, or in how long it will be. */
export function since(instant: string, now: number = Date.now()): string {
  const past = now - new Date(instant).getTime();
  if (past < -500) return `in ${length(-past)}`;
  return past < 1500 ? "now" : `${length(past)} ago`;
}

/** A duration given in microseconds. */
export function took(micros: number): string {
  if (micros < 10_000) return `${(micros / 1000).toFixed(1)} ms`;
  if (micros < 1_000_000) return `${Math.round(micros / 1000)} ms`;
  return `${(micros / 1_000_000).toFixed(1)} s`;
}

const unitWords: Record<string, string> = {
  Cel: "°C",
  "[degF]": "°F",
  m3: "m³",
  "m3/h": "m³/h",
  "kW.h": "kWh",
  "W.h": "Wh",
};

/** A UCUM code as people write the unit. */
export const unitWord = (code: string): string => unitWords[code] ?? code;

/** A number as it is read, without the digits nobody means. */
export const figure = (value: number): string =>
  Number.isInteger(value) ? String(value) : String(Number(value.toPrecision(6)));

/** A size in bytes. */
export function size(bytes: number): string {
  if (bytes < 1024) return `${bytes} B`;
  if (bytes < 1024 * 1024) return `${(bytes / 1024).toFixed(1)} KiB`;
  return `${(bytes / 1024 / 1024).toFixed(1)} MiB`;
}

/** JSON laid out to be read, or the text as it is if it is none. */
export function laidOut(text: string): string {
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch {
    return text;
  }
}

/** A value in a few letters. */
export function brief(value: unknown): string {
  if (typeof value === "string") return value.length > 40 ? `${value.slice(0, 40)}…` : value;
  if (typeof value === "number") return figure(value);
  if (Array.isArray(value)) return `list of ${value.length}`;
  if (value !== null && typeof value === "object") return "object";
  return String(value);
}

/** A sum of money, in whatever sign or code it was entered in. */
export const money = (value: number, currency: string | null): string =>
  `${value < 100 ? value.toFixed(2) : count(Math.round(value))}${currency ? ` ${currency}` : ""}`;

/** An instant as the browser's own field for local times wants it, to the minute. */
export function local(at: Date): string {
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

/** With a capital letter, as the beginning of a label. */
export const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
