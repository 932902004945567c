import { describe, expect, it } from "vitest";
import { going, howOften, type Rehearsed, signOf } from "./lookouts";

const rehearsed = (alarms: number, raised: number[]): Rehearsed => ({
  from: "",
  to: "",
  messages: 1,
  cut: false,
  watched: raised.length,
  alarms: Array.from({ length: alarms }, () => ({
    key: "",
    since: "",
    raised: "",
    cleared: null,
    extreme: null,
    text: "",
  })),
  keys: raised.map((count, index) => ({ key: `${index}`, messages: 1, raised: count })),
  shown: null,
  values: [],
});

describe("what a lookout goes by", () => {
  it("is kept where another sign can use it", () => {
    const frost = { inlets: ["i"], value: "data.wet", below: { on: 0.5, off: 2 }, hold: "5m" };
    expect(signOf(frost)).toBe("below");
    expect(going(frost, "above")).toEqual({
      inlets: ["i"],
      value: "data.wet",
      above: { on: 0.5 },
      hold: "5m",
    });
    expect(going(going(frost, "rises"), "falls").falls).toEqual({ by: 5, within: "1h" });
  });

  it("watches no value where it waits for silence", () => {
    expect(going({ inlets: ["i"], value: "data.wet", below: { on: 1 } }, "silent")).toEqual({
      inlets: ["i"],
      silent: "rhythm",
    });
  });
});

describe("how often it would have raised", () => {
  it("is said in words", () => {
    expect(howOften(rehearsed(0, []))).toBe("The lookout watches no message of this time span.");
    expect(howOften(rehearsed(0, [0, 0]))).toBe("It would have raised no alarm for the 2 it watches.");
    expect(howOften(rehearsed(3, [2, 1, 0]))).toBe(
      "It would have raised 3 alarms, for 2 of the 3 it watches.",
    );
  });
});
