import type { Sighting } from "./api";

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
  const name = place.below.length > 0 || place.notShown > 0 ? allBelow(place.path) : place.path;
  const others = chosen.filter((one) => one !== name && one !== place.path);
  if (!on) return others;
  // What it covers need not be named any more.
  return [...others.filter((one) => !one.startsWith(`${place.path}/`)), name];
}

/** How many messages a second came for a place. */
export const rate = (messages: number, seconds: number) => messages / Math.max(seconds, 0.1);
