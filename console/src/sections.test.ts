import { describe, expect, it } from "vitest";
import { pageOf, sectionOf, sections } from "./sections";

describe("the navigation", () => {
  it("has at most ten entries", () => {
    expect(sections.length).toBeLessThanOrEqual(10);
  });

  it("knows the entry and the page of an address, and of what lies under it", () => {
    expect(sectionOf("/incidents/7")?.title).toBe("Repair");
    expect(pageOf("/incidents/7")?.title).toBe("Incidents");
    expect(sectionOf("/models/pump")?.title).toBe("Devices");
  });

  it("does not take a page whose address only begins the same", () => {
    expect(sectionOf("/lanes-of-old")).toBeUndefined();
    expect(sectionOf("/")).toBeUndefined();
  });
});
