import { describe, expect, it } from "vitest";
import type { LaneState, Message } from "./api";
import {
  byLane,
  type Filter,
  fieldLine,
  fits,
  isSearch,
  localInput,
  searched,
  withDelivery,
} from "./message-list";

const none: Filter = { inlet: "", lane: "", device: "", type: "", state: "", contains: "", from: "", to: "" };

const message = (changes: Partial<Message>): Message => ({
  id: "1",
  received: "2026-04-12T03:20:00Z",
  inlet: "network-server",
  device: "cs-01",
  eventTime: null,
  type: "reading",
  state: "read",
  reason: null,
  simulated: true,
  sequence: null,
  duplicateOf: null,
  bytes: 2,
  preview: "{}",
  lanes: [],
  ...changes,
});

describe("a message that has just come", () => {
  it("fits a list without a filter", () => {
    expect(fits(message({}), none)).toBe(true);
  });

  it("must fit every part of the filter", () => {
    expect(fits(message({}), { ...none, inlet: "network-server", device: "cs-01" })).toBe(true);
    expect(fits(message({}), { ...none, inlet: "network-server", device: "cs-02" })).toBe(false);
    expect(fits(message({}), { ...none, lane: "frost-calls" })).toBe(false);
  });

  it("is unrouted if it was read and no lane took it", () => {
    expect(fits(message({}), { ...none, state: "unrouted" })).toBe(true);
    expect(fits(message({ state: "unreadable" }), { ...none, state: "unrouted" })).toBe(false);
    expect(fits(message({ state: "unreadable" }), { ...none, state: "unreadable" })).toBe(true);
  });
});

describe("a delivery's newest state", () => {
  it("replaces the one before and leaves other lanes alone", () => {
    let states: Map<string, LaneState[]> = new Map();
    states = withDelivery(states, { message: "1", lane: "a", state: "waiting", attempts: 1 });
    states = withDelivery(states, { message: "1", lane: "b", state: "delivered", attempts: 1 });
    states = withDelivery(states, { message: "1", lane: "a", state: "delivered", attempts: 2 });
    expect(states.get("1")).toEqual([
      { lane: "b", state: "delivered", attempts: 1 },
      { lane: "a", state: "delivered", attempts: 2 },
    ]);
  });

  it("is forgotten when there are too many", () => {
    let states: Map<string, LaneState[]> = new Map();
    for (let i = 0; i < 2100; i++) {
      states = withDelivery(states, { message: String(i), lane: "a", state: "delivered", attempts: 1 });
    }
    expect(states.size).toBe(2000);
    expect(states.has("99")).toBe(false);
    expect(states.has("2099")).toBe(true);
  });
});

describe("a message in a list", () => {
  it("shows its fields with units, what was measured first", () => {
    expect(
      fieldLine([
        { name: "airTemperature", value: -2.5, unit: "Cel" },
        { name: "state", value: "running", unit: null },
        { name: "ratio", value: 3, unit: "1" },
        { name: "on", value: true, unit: null },
      ]),
    ).toBe("airTemperature -2.5 °C · ratio 3 · state running · on true");
  });

  it("shows a lane that took several of its points once, with their number", () => {
    const lane = (name: string, state: LaneState["state"], attempts = 1) => ({ lane: name, state, attempts });
    expect(
      byLane([
        lane("soil", "delivered"),
        lane("frost", "waiting"),
        lane("soil", "delivered", 3),
        lane("soil", "dead"),
      ]),
    ).toEqual([
      { lane: "soil", state: "delivered", attempts: 3, count: 2 },
      { lane: "frost", state: "waiting", attempts: 1, count: 1 },
      { lane: "soil", state: "dead", attempts: 1, count: 1 },
    ]);
  });
});

it("a list with a content or a span is a search, and says what was searched", () => {
  expect(isSearch({ ...none, device: "cs-07" })).toBe(false);
  expect(isSearch({ ...none, to: "2026-04-12T03:20:00Z" })).toBe(true);
  expect(searched({ ...none, contains: "frost" })).toBe(
    "Searched: the latest 100,000 messages of the last day",
  );
  expect(searched({ ...none, contains: "frost", from: "2026-04-12T03:20:00Z" })).toContain("of the span");
});

it("an instant is shown in a field in local time, to the minute", () => {
  expect(localInput(new Date(2026, 3, 2, 3, 5, 59))).toBe("2026-04-02T03:05");
});
