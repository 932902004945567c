import { fireEvent, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { open } from "../testing/page";
import { RefusedCalls } from "./refusals";

const call = (number: number) => ({
  at: `2026-04-12T03:20:0${number % 10}Z`,
  node: "one",
  remote: "127.0.0.1",
  address: `POST /in/meters/${number}`,
  code: "401",
  slip: "no-scheme",
  text: "The header Authorization lacks its scheme word: write `Bearer` and a space before its token.",
  fields: { authorization: "•••", "user-agent": "<script>alert(1)</script>" },
});

const answers = (calls: number) => ({
  "GET /api/v1/refusals": {
    refusals: Array.from({ length: calls }, (_, number) => call(number)),
    slips: [{ slip: "no-scheme", count: 1400, last: "2026-04-12T03:20:00Z" }],
  },
});

it("tells what the sender did wrong, and how often that happened", async () => {
  const page = open(<RefusedCalls inlet="meters" />, answers(1));

  expect(await screen.findByText(/lacks its scheme word/)).toBeTruthy();
  expect(screen.getByText("401 no scheme")).toBeTruthy();
  expect(screen.getByText(/× no scheme/).textContent).toContain("no scheme");
  expect(page.of("GET", "/api/v1/refusals")[0]?.query).toEqual({ inlet: "meters" });
});

it("shows what a stranger sent as text and nothing else", async () => {
  open(<RefusedCalls inlet="meters" />, answers(1));

  expect((await screen.findByText("<script>alert(1)</script>")).tagName).toBe("DD");
  expect(document.querySelector("script")).toBeNull();
});

it("shows the newest first, and all on request", async () => {
  open(<RefusedCalls />, answers(9));
  expect(await screen.findAllByRole("listitem")).toHaveLength(5);

  fireEvent.click(screen.getByRole("button", { name: "Show all 9" }));

  expect(screen.getAllByRole("listitem")).toHaveLength(9);
  expect(screen.getByText("Calls to addresses of no inlet")).toBeTruthy();
});
