import { expect, it } from "vitest";
import type { Sighting } from "./api";
import { rate, taken, ticked } from "./looking";

const place = (path: string, below: Sighting[] = []): Sighting => ({
  name: path.split("/").at(-1) ?? path,
  path,
  messages: 1,
  places: 1,
  last: null,
  lastAt: null,
  retained: false,
  below,
  notShown: 0,
});

it("takes a place that has others below it with all of them", () => {
  const site = place("site", [place("site/north")]);
  expect(ticked(site, ["pumps/1"], true)).toEqual(["pumps/1", "site/#"]);
  expect(ticked(site, ["pumps/1", "site/#"], false)).toEqual(["pumps/1"]);
});

it("names a place without others by itself", () => {
  expect(ticked(place("site/north"), [], true)).toEqual(["site/north"]);
  expect(ticked(place("site/north"), ["site/north"], false)).toEqual([]);
});

it("no longer names what a place above covers", () => {
  const site = place("site", [place("site/north")]);
  expect(ticked(site, ["site/north", "site/south/#", "sites/1"], true)).toEqual(["sites/1", "site/#"]);
});

it("tells how a place is taken", () => {
  const north = place("site/north", [place("site/north/flow")]);
  expect(taken(north, [])).toBe("no");
  expect(taken(north, ["site/north"])).toBe("by itself");
  expect(taken(north, ["site/north/#"])).toBe("with all below");
  expect(taken(north, ["site/#"])).toBe("from above");
  expect(taken(north, ["#"])).toBe("from above");
  expect(taken(north, ["sit/#", "site/nor/#"])).toBe("no");
});

it("tells a rate also of a short look", () => {
  expect(rate(10, 5)).toBe(2);
  expect(rate(1, 0)).toBe(10);
});
