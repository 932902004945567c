import type { Sighting } from "./api";

/** What a look fills a list with: paths, the names at a level of them, or the names of values that stand in payloads. */
export type Looking =
  | { take: "paths"; within?: undefined }
  | { take: "level"; within: string; level: number }
  | { take: "values"; within: string };

/** A name among those that were seen at a level, or of a value. */
export type Named = { name: string; messages: number; last: string | null };

/** Levels that say what a message is, and no name of a sender's. */
const NO_NAMES = new Set(["STATE"]);

const isValue = (place: Sighting, above: Sighting | null) =>
  above !== null && !place.path.startsWith(`${above.path}/`);

/** The names that a list can be filled with, each once. */
export function named(found: Sighting[], looking: Exclude<Looking, { take: "paths" }>): Named[] {
  const names = new Map<string, Named>();
  const add = (place: Sighting) => {
    const before = names.get(place.name);
    names.set(place.name, {
      name: place.name,
      messages: (before?.messages ?? 0) + place.messages,
      last: place.last ?? before?.last ?? null,
    });
  };
  const walk = (places: Sighting[], above: Sighting | null, level: number) => {
    for (const place of places) {
      if (NO_NAMES.has(place.name)) continue;
      const value = isValue(place, above);
      if (looking.take === "values" ? value : !value && level === looking.level) add(place);
      walk(place.below, place, level + 1);
    }
  };
  walk(found, null, 0);
  return [...names.values()].sort((a, b) => a.name.localeCompare(b.name));
}

/** Whether a place is a value in a payload, which no path leads to. */
export const isNoPath = isValue;

/** What stands for all that is below a place. */
export const allBelow = (path: string) => `${path}/#`;

/** Whether a place is taken by itself, with all that is below it, or by one above it. */
export function taken(
  place: Sighting,
  chosen: string[],
): "by itself" | "with all below" | "from above" | "no" {
  if (chosen.includes(allBelow(place.path))) return "with all below";
  const above = place.path.split("/").map((_, at, names) => allBelow(names.slice(0, at).join("/")));
  if (chosen.includes("#") || above.some((one, at) => at > 0 && chosen.includes(one))) return "from above";
  return chosen.includes(place.path) ? "by itself" : "no";
}

/** The choice once a place is ticked or unticked: one with others below is taken with all of them. */
export function ticked(place: Sighting, chosen: string[], on: boolean): string[] {
  const inner = place.below.some((one) => !isNoPath(one, place)) || place.notShown > 0;
  const name = inner ? allBelow(place.path) : place.path;
  const others = chosen.filter((one) => one !== name && one !== place.path);
  if (!on) return others;
  // What it covers need not be named any more.
  return [...others.filter((one) => !one.startsWith(`${place.path}/`)), name];
}

/** How many messages a second came for a place. */
export const rate = (messages: number, seconds: number) => messages / Math.max(seconds, 0.1);
