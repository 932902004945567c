import { describe, expect, it } from "vitest";
import { evenTicks, withGaps } from "./series";

const at = (second: number, value: number) => ({
  at: new Date(second * 1000).toISOString(),
  value,
  message: String(second),
});

describe("a series to draw", () => {
  it("has a hole where much longer than usual nothing came", () => {
    const drawn = withGaps([at(0, 1), at(60, 2), at(120, 3), at(600, 4), at(660, 5)], null);
    expect(drawn.map((point) => point.value)).toEqual([1, 2, 3, null, 4, 5]);
  });

  it("goes by what the device is called silent after, where that is known", () => {
    const drawn = withGaps([at(0, 1), at(60, 2), at(600, 3)], 900);
    expect(drawn.map((point) => point.value)).toEqual([1, 2, 3]);
  });

  it("draws a single value and none", () => {
    expect(withGaps([at(0, 1)], null)).toHaveLength(1);
    expect(withGaps([], 60)).toEqual([]);
  });
});

describe("the values of an axis", () => {
  it("are even and hold both ends", () => {
    expect(evenTicks(-2.3, 1.78)).toEqual([-4, -2, 0, 2]);
    expect(evenTicks(0.3, 0.9)).toEqual([0.2, 0.4, 0.6, 0.8, 1]);
    expect(evenTicks(5, 5)).toEqual([4, 6]);
  });
});
