import { parse, stringify, YAMLParseError } from "yaml";
import type { Fields } from "./api";

/** A shape as a person edits it: YAML, which takes JSON too. */
export const shapeText = (shape: unknown): string =>
  shape === undefined || shape === null || Object.keys(shape as Fields).length === 0
    ? ""
    : stringify(shape, { lineWidth: 0, defaultStringType: "PLAIN", defaultKeyType: "PLAIN" });

export type Parsed = { value: Fields | undefined; error: { line: number; text: string } | null };

export function shapeOf(text: string): Parsed {
  if (text.trim() === "") return { value: undefined, error: null };
  try {
    const value = parse(text);
    return value !== null && typeof value === "object" && !Array.isArray(value)
      ? { value, error: null }
      : {
          value: undefined,
          error: { line: 1, text: "a shape is a map; its names are path, query, headers, body" },
        };
  } catch (error) {
    const at = error instanceof YAMLParseError ? error.linePos?.[0].line : undefined;
    const what = error instanceof Error ? error.message.split("\n")[0] : String(error);
    return { value: undefined, error: { line: at ?? 1, text: what ?? "" } };
  }
}
