import { expect, test } from "vitest";
import type { KnownField } from "./api";
import { bodyOf, proposal, proposed, rowsOf } from "./mapping";

const field = (path: string, last: unknown, unit: string | null = null): KnownField => ({
  path,
  kind: typeof last === "number" ? "number" : "text",
  unit,
  label: null,
  last,
  seen: 1,
  of: 1,
});
const fields = [
  field("data.airTemperature", 4.2, "Cel"),
  field("data.humidity", 88, "%"),
  field("data.wind.speed", 3, "m/s"),
  field("device.key", "cs-07"),
  field("device.facts.orchard", "Ashcombe"),
  field("meta.eventTime", "2026-04-12T03:20:00Z"),
];
const row = (name: string, constant: string | number = "x") => ({
  path: [name],
  optional: false,
  source: "",
  constant,
});

test("a body of fields becomes rows and comes back the same", () => {
  const body = { a: "${data.x}", in: { "b?": "${round(data.y, 1)}", c: 3, d: "row ${device.key}" }, e: null };
  const rows = rowsOf(body);
  expect(rows?.map((one) => [one.path.join("."), one.source, one.optional])).toEqual([
    ["a", "data.x", false],
    ["in.b", "round(data.y, 1)", true],
    ["in.c", "", false],
    ["in.d", "row ${device.key}", false],
    ["e", "", false],
  ]);
  expect(bodyOf(rows ?? [])).toEqual(body);
});

test("lists, repeats and named templates are left to the text", () => {
  expect(rowsOf({ a: ["x"] })).toBeNull();
  expect(rowsOf({ a: { $each: "data.l", $give: "${item}" } })).toBeNull();
  expect(rowsOf({ "${device.key}": 1 })).toBeNull();
  expect(rowsOf("text")).toBeNull();
  expect(rowsOf(undefined)).toEqual([]);
});

test("equal names propose themselves, however they are written", () => {
  expect(proposal(row("air_temperature", 1), fields)).toBe("data.airTemperature");
  expect(proposal(row("Orchard"), fields)).toBe("device.facts.orchard");
  expect(proposal(row("colour"), fields)).toBeNull();
});

test("a unit in the name converts", () => {
  expect(proposal(row("airTemperature_F", 1), fields)).toBe(
    "round(convert(data.airTemperature, 'Cel', '[degF]'), 2)",
  );
  expect(proposal(row("airTemperature_c", 1), fields)).toBe("data.airTemperature");
  expect(proposal(row("speedKmh", 1), fields)).toBe("round(convert(data.wind.speed, 'm/s', 'km/h'), 2)");
});

test("times and ids are known by what they are called", () => {
  expect(proposal(row("deviceId"), fields)).toBe("device.key");
  expect(proposal(row("timestamp", 1_700_000_000_000), fields)).toBe("millis(meta.eventTime)");
  expect(proposal(row("ts", 1_700_000_000), fields)).toBe("seconds(meta.eventTime)");
  expect(proposal(row("time", "2026-01-01T00:00:00Z"), fields)).toBe("meta.eventTime");
});

test("what a person joined stays", () => {
  const [kept, filled] = proposed(
    [{ path: ["humidity"], optional: false, source: "data.x" }, row("humidity", 1)],
    fields,
  );
  expect(kept?.source).toBe("data.x");
  expect(filled).toEqual({
    path: ["humidity"],
    optional: false,
    source: "data.humidity",
    constant: undefined,
  });
});
