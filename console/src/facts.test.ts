import { describe, expect, it } from "vitest";
import { factValue } from "./facts";

describe("a fact as it was typed", () => {
  it("keeps the type of numbers, true and false", () => {
    expect(factValue(" 12.5 ")).toBe(12.5);
    expect(factValue("-3")).toBe(-3);
    expect(factValue("true")).toBe(true);
  });

  it("is text where it has leading zeros or anything else", () => {
    expect(factValue("007")).toBe("007");
    expect(factValue("row 4")).toBe("row 4");
    expect(factValue("1e5")).toBe("1e5");
  });
});
