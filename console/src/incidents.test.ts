import { expect, test } from "vitest";
import { type Findings, neverCame, span, total } from "./incidents";

const none: Findings = {
  messages: 0,
  delivered: 0,
  waiting: 0,
  unread: 0,
  readable: 0,
  dead: {},
  unrouted: {},
  revisions: {},
  overtaken: 0,
  examples: {},
  missing: [],
};

test("a span reaches to the end of the stretch it was drawn to, whichever way it was drawn", () => {
  expect(span(1_000, 5_000, 1_000)).toEqual({ since: 1_000, until: 6_000 });
  expect(span(5_000, 1_000, 1_000)).toEqual({ since: 1_000, until: 6_000 });
});

test("counts are summed over their types", () => {
  expect(total({ "422": 3, timeout: 4 })).toBe(7);
  expect(total({})).toBe(0);
});

test("what came late does not count as missing", () => {
  const gap = { device: "d", inlet: "i", first: 4, last: 9, at: "", message: "", late: 2 };
  expect(neverCame({ ...none, missing: [gap, { ...gap, first: 20, last: 20, late: 0 }] })).toBe(5);
});
