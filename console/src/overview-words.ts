import type { Overview } from "./api";
import type { Spool } from "./delivery";
import { plural } from "./words";

export type Said = { state: "good" | "wait" | "bad"; text: string; detail: string };

/** What is true while the database is away, when nothing else is known. */
export function withoutDatabase(spools: Spool[]): Said {
  const taking = spools.some((spool) => spool.most > 0 && spool.trouble === null);
  return {
    state: "bad",
    text: "The database does not answer.",
    detail: taking
      ? "New messages are accepted and kept on this node's disk; delivery resumes when the database is back. Nothing is lost."
      : "Messages are refused, so that their senders keep them, until it is back. Nothing is lost.",
  };
}

/** The answer to "is everything that came in going out, and if not, where does it stop?" in a sentence. */
export function verdict(overview: Overview): Said {
  const stopped = overview.lanes.filter((lane) => lane.trouble === "stopped");
  const late = overview.lanes.filter((lane) => lane.trouble === "late");
  const owed = overview.lanes.reduce((sum, lane) => sum + lane.owes, 0);
  const missing = overview.balance.missing;
  if (missing > 0) {
    return {
      state: "bad",
      text: `${plural(missing, "message or delivery is", "messages or deliveries are")} missing.`,
      detail: "The last hour does not balance.",
    };
  }
  if (stopped.length > 0) {
    const lanes = stopped.map((lane) => lane.lane).join(", ");
    return {
      state: "bad",
      text: `${plural(stopped.length, "lane is", "lanes are")} stopped: ${lanes}.`,
      detail: `${plural(owed, "delivery waits", "deliveries wait")}. Nothing is lost.`,
    };
  }
  if (late.length > 0) {
    const lanes = late.map((lane) => lane.lane).join(", ");
    return {
      state: "wait",
      text: `${plural(late.length, "lane is", "lanes are")} late: ${lanes}.`,
      detail: `${plural(owed, "delivery waits", "deliveries wait")} and will be tried again.`,
    };
  }
  if (overview.dead > 0) {
    return {
      state: "wait",
      text: "Everything is going out except the dead letters.",
      detail: `${plural(overview.dead, "delivery", "deliveries")} will not be tried again until a person says so${
        owed > 0 ? `; ${owed} more on the way` : ""
      }.`,
    };
  }
  if (overview.lanes.length === 0) {
    return { state: "wait", text: "There are no lanes yet.", detail: "Adopt a setup to make some." };
  }
  return {
    state: "good",
    text: "Everything that came in is going out.",
    detail: owed > 0 ? `${plural(owed, "delivery is", "deliveries are")} on the way.` : "Nothing waits.",
  };
}
