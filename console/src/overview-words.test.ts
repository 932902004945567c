import { describe, expect, it } from "vitest";
import type { LaneRow, Overview } from "./api";
import type { Spool } from "./delivery";
import { verdict, withoutDatabase } from "./overview-words";

const lane = (name: string, trouble: LaneRow["trouble"], owes = 0): LaneRow => ({
  lane: name,
  inlets: ["network-server"],
  outlet: "works-desk",
  pick: null,
  units: {},
  trouble,
  state: "open",
  lastError: null,
  outletState: "flowing",
  owes,
  dead: 0,
  oldest: null,
  reason: null,
  since: null,
  nextTry: null,
  advice: null,
  traffic: { taken: [], delivered: [], failed: [] },
});

const overview = (lanes: LaneRow[], dead = 0, missing = 0): Overview => ({
  countedAt: "2026-04-12T03:20:00Z",
  at: "2026-04-12T03:20:00Z",
  setupRevision: 1,
  alarms: 0,
  dead,
  lanes,
  balance: {
    from: "2026-04-12T02:20:00Z",
    to: "2026-04-12T03:20:00Z",
    intake: {
      acknowledged: 0,
      read: 0,
      unreadable: 0,
      unclaimed: 0,
      deferred: 0,
      duplicates: 0,
      ignored: 0,
      spooled: 0,
      whole: 0,
      parts: 0,
      unrouted: 0,
      unacknowledged: 0,
      missing,
    },
    lanes: [],
    missing,
  },
});

describe("the overview's verdict", () => {
  it("is good when all flows", () => {
    expect(verdict(overview([lane("a", "flowing", 2)]))).toEqual({
      state: "good",
      text: "Everything that came in is going out.",
      detail: "2 deliveries are on the way.",
    });
  });

  it("names the lanes that are stopped", () => {
    const said = verdict(overview([lane("frost-calls", "stopped", 34), lane("b", "late", 1)]));
    expect(said.state).toBe("bad");
    expect(said.text).toBe("1 lane is stopped: frost-calls.");
    expect(said.detail).toContain("35 deliveries wait");
  });

  it("puts what is missing above all else", () => {
    expect(verdict(overview([lane("a", "stopped", 1)], 0, 3)).text).toBe(
      "3 messages or deliveries are missing.",
    );
  });

  it("does not call dead letters good", () => {
    expect(verdict(overview([lane("a", "dead")], 2)).state).toBe("wait");
  });
});

describe("without the database", () => {
  const spool = (special: Partial<Spool>): Spool => ({
    node: "one",
    messages: 3,
    bytes: 900,
    most: 1_000_000,
    oldest: null,
    trouble: null,
    diskFree: 1,
    at: "2026-04-12T03:20:00Z",
    here: true,
    ...special,
  });

  it("says whether messages are accepted", () => {
    expect(withoutDatabase([spool({})]).detail).toContain("accepted");
    expect(withoutDatabase([spool({ trouble: "the spool is full" })]).detail).toContain("refused");
    expect(withoutDatabase([spool({ most: 0 })]).detail).toContain("refused");
  });
});
