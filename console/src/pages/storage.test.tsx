import { screen, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { open, Refusal } from "../testing/page";
import { StoragePage } from "./storage";

const kept = (what: string, more: object = {}) => ({
  what,
  days: 12,
  limit: 90,
  bytes: 12_000_000,
  perDay: 1_000_000,
  forecast: 90_000_000,
  ...more,
});

it("tells how long each thing is kept and what it will take", async () => {
  open(<StoragePage />, {
    "GET /api/v1/storage": { kept: [kept("message"), kept("attempt", { limit: 1 })] },
  });

  const row = (await screen.findByText("Messages")).closest("tr") as HTMLElement;
  expect(within(row).getByText("90 days")).toBeTruthy();
  expect(screen.getByText("1 day")).toBeTruthy();
});

it("warns of what is never removed", async () => {
  open(<StoragePage />, {
    "GET /api/v1/storage": { kept: [kept("outcome", { limit: 0, forecast: null })] },
  });

  const row = (await screen.findByText("Outcomes")).closest("tr") as HTMLElement;
  expect(within(row).getByText("never")).toBeTruthy();
  expect(within(row).getByText("grows without end")).toBeTruthy();
});

it("says that it measures until it has, and why it cannot", async () => {
  open(<StoragePage />, { "GET /api/v1/storage": new Refusal(503, "The database is away.") });

  expect(screen.getByText("Measuring…")).toBeTruthy();
  expect(await screen.findByText(/The database is away/)).toBeTruthy();
});
