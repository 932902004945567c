import { expect, test } from "vitest";
import { shapeOf, shapeText } from "./shape-text";

test("a shape comes back from its text", () => {
  const shape = { path: "/a/${device.key}", body: { a: "${data.t}", list: [1, "x: y"], "b?": "${data.b}" } };
  expect(shapeOf(shapeText(shape)).value).toEqual(shape);
});

test("an error names its line", () => {
  const { error } = shapeOf("body:\n  a: [1, 2\n  b: 3\n");
  expect(error?.line).toBeGreaterThan(1);
  expect(shapeOf("- a\n").error?.text).toContain("a shape is a map");
});

test("nothing is no shape", () => {
  expect(shapeOf(" \n")).toEqual({ value: undefined, error: null });
  expect(shapeText(undefined)).toBe("");
});
