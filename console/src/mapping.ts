import type { Fields, KnownField } from "./api";

/** One field of the destination and what fills it. */
export type Row = {
  /** Names from the body down. */
  path: string[];
  optional: boolean;
  /** The field or expression that fills it; empty where it is a constant. */
  source: string;
  /** The constant, or the example a documentation showed; undefined where there is a source. */
  constant?: string | number | boolean | null;
};

const HOLE = /^\$\{([^}]*)\}$/;

/** The rows of a body; null if it has parts that rows cannot show: lists, repeats, conditions. */
export function rowsOf(body: unknown): Row[] | null {
  const rows: Row[] = [];
  const walk = (value: unknown, path: string[], optional: boolean): boolean => {
    if (Array.isArray(value)) return false;
    if (value !== null && typeof value === "object") {
      for (const [name, inner] of Object.entries(value)) {
        if (/^\$[a-z]/.test(name) || name.includes("${") || name.endsWith("??") || name.startsWith("$$"))
          return false;
        const vanishes = name.endsWith("?");
        const nested = inner !== null && typeof inner === "object";
        if (vanishes && nested) return false;
        if (!walk(inner, [...path, vanishes ? name.slice(0, -1) : name], vanishes)) return false;
      }
      return true;
    }
    if (path.length === 0) return false;
    const text = typeof value === "string" ? value : null;
    const hole = text?.match(HOLE);
    if (hole) rows.push({ path, optional, source: (hole[1] ?? "").trim() });
    else if (text?.includes("${")) rows.push({ path, optional, source: text });
    else rows.push({ path, optional, source: "", constant: value as string | number | boolean | null });
    return true;
  };
  if (body === undefined || body === null || typeof body !== "object") return body === undefined ? [] : null;
  return walk(body, [], false) ? rows : null;
}

/** The body that rows stand for. */
export function bodyOf(rows: Row[]): Fields {
  const body: Fields = {};
  for (const row of rows) {
    if (row.path.length === 0 || row.path.some((name) => name === "")) continue;
    let at: Fields = body;
    for (const name of row.path.slice(0, -1)) {
      const inner = at[name];
      if (inner === null || typeof inner !== "object") at[name] = {};
      at = at[name] as Fields;
    }
    const last = row.path[row.path.length - 1] as string;
    at[row.optional ? `${last}?` : last] =
      row.source === ""
        ? (row.constant ?? null)
        : row.source.includes("${")
          ? row.source
          : `\${${row.source}}`;
  }
  return body;
}

const plain = (name: string) => name.toLowerCase().replace(/[^a-z0-9]/g, "");

/** Units that destinations hide in the names of their fields. */
const UNITS: [RegExp, string][] = [
  [/(_f|fahrenheit|degf)$/i, "[degF]"],
  [/(_c|celsius|degc)$/i, "Cel"],
  [/(_k|kelvin)$/i, "K"],
  [/(kmh|km_h|kph)$/i, "km/h"],
  [/(_mps|m_s|ms)$/, "m/s"],
  [/kwh$/i, "kW.h"],
  [/(_wh|watthours)$/i, "W.h"],
  [/(_mm|millimet(re|er)s?)$/i, "mm"],
  [/(_cm|centimet(re|er)s?)$/i, "cm"],
  [/(percent|pct)$/i, "%"],
];

const unitOf = (name: string) => UNITS.find(([pattern]) => pattern.test(name))?.[1] ?? null;

const bare = (name: string) => {
  const pattern = UNITS.find(([ending]) => ending.test(name))?.[0];
  const rest = pattern ? name.replace(pattern, "") : name;
  return plain(rest) === "" ? plain(name) : plain(rest);
};

const MEANT: Record<string, string[]> = {
  "device.key": ["device", "deviceid", "id", "key", "sensor", "sensorid", "serial", "source"],
  "meta.eventTime": ["time", "timestamp", "at", "ts", "measured", "measuredat", "date"],
  "device.model": ["model", "type", "devicetype", "profile"],
};

const DIMENSIONS = [
  ["Cel", "[degF]", "K"],
  ["m/s", "km/h"],
  ["W.h", "kW.h"],
  ["mm", "cm", "m"],
];

const convertible = (from: string, to: string) =>
  DIMENSIONS.some((units) => units.includes(from) && units.includes(to));

/** What would fill a destination's field: by an equal name, and in the unit its name asks for. Null if nothing is near. */
export function proposal(row: Row, fields: KnownField[]): string | null {
  const name = row.path[row.path.length - 1] ?? "";
  const wanted = bare(name);
  const unit = unitOf(name);
  const meant = Object.entries(MEANT).find(([, names]) => names.includes(plain(name)));
  const score = (field: KnownField): number => {
    const last = plain(field.path.split(".").pop() ?? "");
    const whole = plain(field.path.replace(/^data\.|^device\.facts\./, ""));
    if (field.kind === "object" || field.kind === "list") return 0;
    let points = 0;
    if (last === wanted || whole === wanted || (field.label && plain(field.label) === wanted)) points = 10;
    else if (wanted.length > 2 && (last.includes(wanted) || (last.length > 2 && wanted.includes(last))))
      points = 4;
    else if (unit && field.unit && convertible(field.unit, unit) && last.slice(0, 3) === wanted.slice(0, 3))
      points = 3;
    if (points === 0) return 0;
    if (unit && field.unit === unit) points += 2;
    if (unit && field.unit && field.unit !== unit && !convertible(field.unit, unit)) points -= 6;
    if (typeof row.constant === "number" && field.kind !== "number" && field.kind !== "time") points -= 3;
    return points + (field.path.startsWith("data.") ? 0.5 : 0);
  };
  const best = fields
    .map((field) => ({ field, points: score(field) }))
    .sort((a, b) => b.points - a.points)[0];
  if (best && best.points >= 3) {
    const { path, unit: has } = best.field;
    return unit && has && has !== unit && convertible(has, unit)
      ? `round(convert(${path}, '${has}', '${unit}'), 2)`
      : path;
  }
  if (!meant) return null;
  if (meant[0] === "meta.eventTime" && typeof row.constant === "number")
    return row.constant > 1e11 ? "millis(meta.eventTime)" : "seconds(meta.eventTime)";
  return meant[0];
}

/** Fills what is a constant and has a proposal; what a person joined stays. */
export function proposed(rows: Row[], fields: KnownField[]): Row[] {
  return rows.map((row) => {
    const source = row.source === "" ? proposal(row, fields) : null;
    return source ? { ...row, source, constant: undefined } : row;
  });
}
