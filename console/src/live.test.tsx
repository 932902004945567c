import { act, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { useLive } from "./live";

class Stream extends EventTarget {
  static latest: Stream;
  onopen: (() => void) | null = null;
  onerror: (() => void) | null = null;
  close = vi.fn();
  constructor() {
    super();
    Stream.latest = this;
  }
  send(type: string, data: unknown) {
    this.dispatchEvent(new MessageEvent(type, { data: JSON.stringify(data) }));
  }
}

beforeEach(() => vi.stubGlobal("EventSource", Stream));
afterEach(() => vi.unstubAllGlobals());

it("asks for a refresh whenever the stream opens, since nothing was heard before", () => {
  const refresh = vi.fn();
  const { result } = renderHook(() => useLive({ refresh }));
  expect(result.current).toBe("reconnecting");

  act(() => Stream.latest.onopen?.());
  act(() => Stream.latest.onerror?.());
  act(() => Stream.latest.onopen?.());

  expect(refresh).toHaveBeenCalledTimes(2);
  expect(result.current).toBe("live");
});

it("asks for a refresh when the stream left some out, and says how many", () => {
  const refresh = vi.fn();
  const missed = vi.fn();
  renderHook(() => useLive({ refresh, missed }));

  act(() => Stream.latest.send("missed", { count: 3 }));

  expect(missed).toHaveBeenCalledWith(3);
  expect(refresh).toHaveBeenCalledOnce();
});

it("hands on messages and deliveries, and closes the stream at the end", () => {
  const message = vi.fn();
  const delivery = vi.fn();
  const { unmount } = renderHook(() => useLive({ message, delivery }));

  act(() => Stream.latest.send("message", { id: "m" }));
  act(() => Stream.latest.send("delivery", { message: "m", lane: "l" }));
  unmount();

  expect(message).toHaveBeenCalledWith({ id: "m" });
  expect(delivery).toHaveBeenCalledWith({ message: "m", lane: "l" });
  expect(Stream.latest.close).toHaveBeenCalled();
});
