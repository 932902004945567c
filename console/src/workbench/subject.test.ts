import { afterEach, expect, it, vi } from "vitest";
import { api, type Message } from "../api";
import { recentOf } from "./subject";

afterEach(() => vi.restoreAllMocks());

const message = (id: string, of: Partial<Message>) =>
  ({
    id,
    device: "cs-07",
    type: "reading",
    state: "read",
    received: `2026-04-12T03:2${id}:00Z`,
    ...of,
  }) as Message;

function come(all: Message[]) {
  return vi.spyOn(api, "messages").mockResolvedValue({ messages: all, next: null });
}

it("offers one message of each device and type first, the newest of each, then the others", async () => {
  come([
    message("1", {}),
    message("2", {}),
    message("3", { type: "fault" }),
    message("4", { device: "cs-08" }),
  ]);
  expect((await recentOf(["network"])).map((one) => one.id)).toEqual(["4", "3", "2", "1"]);
});

it("leaves out what cannot be read", async () => {
  come([message("1", { state: "unreadable" }), message("2", { state: "unclaimed" })]);
  expect(await recentOf(["network"])).toEqual([]);
});

it("offers the alarms that Holtra made itself", async () => {
  const asked = come([message("1", { state: "made", type: "alarm" })]);
  expect((await recentOf(["holtra"])).map((one) => one.id)).toEqual(["1"]);
  expect(asked).toHaveBeenCalledWith(expect.objectContaining({ inlet: "holtra", type: "alarm" }));
});
