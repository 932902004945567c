import type { KnownField } from "./api";
import { brief, unitWord } from "./words";

export type Suggestion = { text: string; detail: string; type: "field" | "function" };

/** The functions expressions have beside CEL's own, with how they are called. */
const FUNCTIONS: [string, string][] = [
  ["has(", "whether a field is there: has(data.level)"],
  ["default(", "a field, or something else where it is absent: default(data.level, 0)"],
  ["convert(", "between units: convert(data.t, 'Cel', '[degF]')"],
  ["round(", "to decimals: round(data.t, 1)"],
  ["lookup(", "lookup('name', data.state)"],
  ["formatTime(", "a time as text: formatTime(meta.eventTime, 'yyyy-MM-dd HH:mm')"],
  ["parseTime(", "text as a time: parseTime(data.at, 'dd.MM.yyyy HH:mm')"],
  ["seconds(", "a time as seconds since 1970"],
  ["millis(", "a time as milliseconds since 1970"],
  ["entries(", "an object as a list of names and values"],
  ["size(", "the length of a text or list"],
  ["hex(", "bytes as hexadecimal text"],
  ["unhex(", "hexadecimal text as bytes"],
  ["base64(", "bytes as base64 text"],
  ["unbase64(", "base64 text as bytes"],
];

/** Whether the end of the text is inside an expression of a template. */
export function insideHole(before: string): boolean {
  const open = before.lastIndexOf("${");
  return open >= 0 && !before.slice(open).includes("}");
}

/** What can stand where a person types, and from which character on it would be put in. */
export function complete(
  before: string,
  fields: KnownField[],
  tables: string[],
): { from: number; suggestions: Suggestion[] } {
  const table = before.match(/lookup\(\s*['"]([a-z0-9-]*)$/);
  if (table) {
    const typed = table[1] ?? "";
    return {
      from: before.length - typed.length,
      suggestions: tables
        .filter((name) => name.startsWith(typed))
        .map((name) => ({ text: name, detail: "lookup", type: "field" })),
    };
  }
  const typed = before.match(/[A-Za-z_][\w.]*$/)?.[0] ?? "";
  const from = before.length - typed.length;
  const wanted = typed.toLowerCase();
  const found: Suggestion[] = fields
    .filter((field) => field.path.toLowerCase().includes(wanted))
    .sort((a, b) => rank(a, wanted) - rank(b, wanted))
    .map((field) => ({ text: field.path, detail: told(field), type: "field" }));
  const functions: Suggestion[] = FUNCTIONS.filter(
    ([name]) => wanted !== "" && !typed.includes(".") && name.startsWith(wanted),
  ).map(([text, detail]) => ({ text, detail, type: "function" }));
  return { from, suggestions: [...found, ...functions] };
}

function rank(field: KnownField, wanted: string): number {
  const begins = field.path.toLowerCase().startsWith(wanted) ? 0 : 2;
  return begins + (field.path.startsWith("data.") ? 0 : 1);
}

/** A field's last value with its unit, in a few letters. */
export function told(field: KnownField): string {
  return `${brief(field.last)}${field.unit ? ` ${unitWord(field.unit)}` : ""}`;
}
