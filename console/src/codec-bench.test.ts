import { describe, expect, it } from "vitest";
import { lineOf, payload } from "./codec-bench";

describe("the payload in an uplink", () => {
  it("is found by its name, wherever it stands, and given in hexadecimal", () => {
    expect(payload('{"uplink":{"port":2,"payload":"/zg="}}')).toEqual({ bytes: "ff38", port: 2 });
    expect(payload('{"bytes":"FF38"}')).toEqual({ bytes: "ff38", port: null });
  });

  it("is none where there is none", () => {
    expect(payload('{"type":"status"}')).toBeNull();
    expect(payload("not json")).toBeNull();
    expect(payload(null)).toBeNull();
    expect(payload('{"payload":"%%%"}')).toBeNull();
  });
});

describe("an error of a script", () => {
  it("tells its line", () => {
    expect(lineOf("line 12, column 3: TypeError: x")).toBe(12);
    expect(lineOf("it ran longer than 500 ms, and was stopped")).toBeNull();
  });
});
