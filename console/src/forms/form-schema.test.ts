import { describe, expect, it } from "vitest";
import { alternatives, errorTree, filled, formSchema, only, refined, TYPES, typed } from "./form-schema";

const rule = {
  type: "object",
  required: ["when"],
  properties: { when: { type: ["string", "boolean"] }, after: { type: "string" } },
};
const outlet = {
  type: "object",
  properties: {
    verdicts: { type: "array", items: rule },
    pace: { type: "object", properties: { perSecond: { type: "number" } } },
    headers: { type: "object", additionalProperties: { type: ["string", "number", "boolean"] } },
  },
};

describe("the form of a schema", () => {
  it("asks for text where more than text is allowed, and remembers what", () => {
    const when = formSchema(rule).properties?.when;
    expect(when).toMatchObject({ type: "string", [TYPES]: ["string", "boolean"] });
  });

  it("shows chosen properties only, and requires no others", () => {
    expect(only(rule, ["after"])).toMatchObject({ properties: { after: {} }, required: [] });
  });

  it("takes what a kind says of a common field in more detail", () => {
    const more = { properties: { pace: { properties: { perSecond: { enum: ["1"] } } } } };
    expect(refined(outlet, more).properties?.pace?.properties?.perSecond).toEqual({
      type: "number",
      enum: ["1"],
    });
    expect(refined(outlet, more).properties?.verdicts).toEqual(outlet.properties.verdicts);
  });
});

describe("text that a person types", () => {
  it.each([
    ["true", ["string", "boolean"], true],
    ["true", ["string"], "true"],
    ["12.5", ["string", "number"], 12.5],
    ["12.0", ["string", "number"], "12.0"],
    ["12.", ["number"], "12."],
    ["data.t > 3", ["string", "boolean"], "data.t > 3"],
    ["7", undefined, "7"],
  ])("%s as %s is %s", (text, types, value) => {
    expect(typed(text, types)).toBe(value);
  });
});

describe("what a form gives back", () => {
  it("leaves out what was cleared, and parts of which nothing is filled in", () => {
    expect(filled({ pace: { perSecond: "" }, verdicts: [], headers: {} }, outlet)).toEqual({});
  });

  it("keeps entries that a person named, and entries of lists, though they are empty yet", () => {
    const begun = { headers: { accept: "" }, verdicts: [{ when: "" }] };
    expect(filled(begun, outlet)).toEqual({ headers: { accept: "" }, verdicts: [{}] });
  });

  it("keeps zero and false", () => {
    expect(filled({ pace: { perSecond: 0 }, verdicts: [{ when: false }] }, outlet)).toEqual({
      pace: { perSecond: 0 },
      verdicts: [{ when: false }],
    });
  });
});

describe("problems", () => {
  it("stand at the field they are about, also in lists", () => {
    expect(errorTree({ "verdicts.0.when": "a comma is missing" }, "")).toEqual({
      verdicts: { 0: { when: { __errors: ["a comma is missing"] } } },
    });
  });

  it("of a missing field stand at that field", () => {
    expect(errorTree({ "verdicts.0": "`is` is missing" }, "")).toEqual({
      verdicts: { 0: { is: { __errors: ["`is` is missing"] } } },
    });
  });

  it("of other parts are left out", () => {
    expect(errorTree({ "at.url": "no address", "to.url": "no address" }, "to")).toEqual({
      url: { __errors: ["no address"] },
    });
  });
});

it("the alternative is the one that the data fit", () => {
  const reads = { properties: { mode: { const: "lines" } }, required: ["mode"] };
  expect(alternatives.isValid(reads, { mode: "lines" }, reads)).toBe(true);
  expect(alternatives.isValid(reads, { mode: "whole" }, reads)).toBe(false);
});
