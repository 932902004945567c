import type { FieldValue, LaneState, Message } from "./api";
import type { LiveDelivery } from "./live";
import { figure, unitWord } from "./words";

export type Filter = {
  inlet: string;
  lane: string;
  device: string;
  type: string;
  state: string;
  contains: string;
  /** Instants, as text. */
  from: string;
  to: string;
};

/** Whether the past is searched: then nothing is added as it comes. */
export const isSearch = (filter: Filter) => filter.contains !== "" || filter.from !== "" || filter.to !== "";

/** What a search looks at, in words. */
export function searched(filter: Filter): string {
  const span = filter.from !== "" ? "the span" : filter.to !== "" ? "the day before" : "the last day";
  return `Searched: ${filter.contains === "" ? span : `the latest 100,000 messages of ${span}`}`;
}

/** An instant as a field of date and time takes it: local, to the minute. */
export function localInput(at: Date): string {
  const two = (number: number) => String(number).padStart(2, "0");
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}T${two(at.getHours())}:${two(at.getMinutes())}`;
}

/** Whether a message that has just come belongs in a list with this filter. */
export function fits(message: Message, filter: Filter): boolean {
  if (filter.inlet !== "" && message.inlet !== filter.inlet) return false;
  if (filter.device !== "" && message.device !== filter.device) return false;
  if (filter.type !== "" && message.type !== filter.type) return false;
  if (filter.lane !== "" && !message.lanes.some((lane) => lane.lane === filter.lane)) return false;
  switch (filter.state) {
    case "":
      return true;
    case "unreadable":
    case "unclaimed":
    case "deferred":
    case "duplicate":
    case "whole":
      return message.state === filter.state;
    case "unrouted":
      return message.state === "read" && message.lanes.length === 0;
    case "waiting":
      return message.lanes.length > 0;
    default:
      return false; // what has just come is neither delivered nor dead yet
  }
}

/** A message's fields on one line, what was measured first: names, values, units. */
export const fieldLine = (fields: FieldValue[]): string =>
  fields
    .toSorted((a, b) => rank(a) - rank(b))
    .map(
      ({ name, value, unit }) => `${name} ${shown(value)}${unit && unit !== "1" ? ` ${unitWord(unit)}` : ""}`,
    )
    .join(" · ");

const rank = ({ value, unit }: FieldValue) => (unit ? 0 : typeof value === "number" ? 1 : 2);

const shown = (value: unknown): string =>
  typeof value === "number"
    ? figure(value)
    : typeof value === "string"
      ? value
      : (JSON.stringify(value) ?? "");

/** Lanes with the states of their deliveries; a lane that took several points of the device is there once. */
export function byLane(lanes: LaneState[]): (LaneState & { count: number })[] {
  const found = new Map<string, LaneState & { count: number }>();
  for (const one of lanes) {
    const key = `${one.lane} ${one.state}`;
    const before = found.get(key);
    if (before) {
      before.count += 1;
      before.attempts = Math.max(before.attempts, one.attempts);
    } else found.set(key, { ...one, count: 1 });
  }
  return [...found.values()];
}

/** As many messages are remembered, so that a page left open does not grow without end. */
const REMEMBERED = 2000;

/** The newest known state of deliveries, by message, with one more taken in. */
export function withDelivery(
  before: Map<string, LaneState[]>,
  delivery: LiveDelivery,
): Map<string, LaneState[]> {
  const next = new Map(before);
  const others = (next.get(delivery.message) ?? []).filter((lane) => lane.lane !== delivery.lane);
  next.delete(delivery.message);
  next.set(delivery.message, [
    ...others,
    { lane: delivery.lane, state: delivery.state, attempts: delivery.attempts },
  ]);
  for (const oldest of next.keys()) {
    if (next.size <= REMEMBERED) break;
    next.delete(oldest);
  }
  return next;
}
