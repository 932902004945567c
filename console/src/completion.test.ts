import { expect, test } from "vitest";
import type { KnownField } from "./api";
import { complete, insideHole } from "./completion";

const field = (path: string, last: unknown, unit: string | null = null): KnownField => ({
  path,
  kind: typeof last === "number" ? "number" : "text",
  unit,
  label: null,
  last,
  seen: 3,
  of: 3,
});
const fields = [
  field("device.facts.row", 4),
  field("data.wetBulb", -0.5, "Cel"),
  field("data.wind.gust", 7),
  field("meta.type", "reading"),
];
const texts = (before: string) =>
  complete(before, fields, ["pump-states", "words"]).suggestions.map((one) => one.text);

test("fields that begin as typed come first, those of the data before others", () => {
  expect(texts("data.w")).toEqual(["data.wetBulb", "data.wind.gust"]);
  expect(texts("x < 3 && ro")).toEqual(["device.facts.row", "round("]);
});

test("a field is told with its last value and unit", () => {
  expect(complete("data.wet", fields, []).suggestions[0]?.detail).toBe("-0.5 °C");
});

test("what was typed is replaced from its first letter", () => {
  expect(complete("data.a > 1 && meta.so", fields, []).from).toBe(14);
});

test("inside lookup() the tables are offered", () => {
  expect(texts("lookup('pu")).toEqual(["pump-states"]);
});

test("a template is completed only inside its holes", () => {
  expect(insideHole('where: "row ${device.')).toBe(true);
  expect(insideHole('where: "row ${device.key}, ')).toBe(false);
  expect(insideHole("where: row")).toBe(false);
});
