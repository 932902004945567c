import { describe, expect, it } from "vitest";
import { exactTime, laidOut, length, plural, since, size, time, took } from "./words";

describe("words", () => {
  it("says how long in the largest unit", () => {
    expect(length(5_400)).toBe("5 s");
    expect(length(119_000)).toBe("119 s");
    expect(length(7_100_000)).toBe("118 min");
    expect(length(7_200_000)).toBe("2 h");
    expect(length(172_800_000)).toBe("2 days");
  });

  it("tells the past from the future", () => {
    const now = Date.parse("2026-04-12T03:20:00Z");
    expect(since("2026-04-12T03:19:20Z", now)).toBe("40 s ago");
    expect(since("2026-04-12T03:20:30Z", now)).toBe("in 30 s");
    expect(since("2026-04-12T03:19:59.500Z", now)).toBe("now");
  });

  it("puts the day in front of a time that is not today's", () => {
    const now = new Date(2026, 3, 12, 9, 0, 0);
    expect(time(new Date(2026, 3, 12, 3, 4, 5).toISOString(), now)).toBe("03:04:05");
    expect(time(new Date(2026, 3, 11, 3, 4, 5).toISOString(), now)).toContain("11");
  });

  it("writes durations and sizes in units that fit", () => {
    expect(took(1_430)).toBe("1.4 ms");
    expect(took(187_853)).toBe("188 ms");
    expect(took(3_004_000)).toBe("3.0 s");
    expect(size(66)).toBe("66 B");
    expect(size(2_048)).toBe("2.0 KiB");
  });

  it("counts in the right number", () => {
    expect(plural(1, "lane is", "lanes are")).toBe("1 lane is");
    expect(plural(1234, "lane is", "lanes are")).toBe("1,234 lanes are");
  });

  it("lays out JSON and leaves other text alone", () => {
    expect(laidOut('{"a":1}')).toBe('{\n  "a": 1\n}');
    expect(laidOut("<p>no</p>")).toBe("<p>no</p>");
  });
});

it("an exact time has its date, its zone and milliseconds", () => {
  expect(exactTime("2026-04-12T03:20:00.042Z", "UTC")).toBe("12 Apr 2026, 03:20:00.042 UTC");
  expect(exactTime("2026-04-12T03:20:00.042Z", "Etc/GMT+3")).toBe("12 Apr 2026, 00:20:00.042 GMT-3");
});
