import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { open } from "../testing/page";
import { DevicesPage } from "./devices";

const device = (key: string) => ({
  key,
  model: "station",
  facts: { orchard: "Ashcombe" },
  points: {},
  zone: null,
  installed: null,
  silentAfter: null,
  revision: 1,
  simulated: false,
  state: "live",
  firstHeard: "2026-04-12T03:00:00Z",
  lastHeard: "2026-04-12T03:20:00Z",
  messages: 12,
  missing: 0,
  restarts: 0,
  values: null,
  shows: {},
  gateway: {},
  silentAfterSeconds: 600,
});

const answers = {
  "GET /api/v1/devices": ({ query }: { query: Record<string, string> }) =>
    query.after
      ? { devices: [device("cs-3")], total: 3, next: null, models: ["station"] }
      : { devices: [device("cs-1"), device("cs-2")], total: 3, next: "cs-2", models: ["station"] },
};

it("goes to the next page and back", async () => {
  open(<DevicesPage />, answers);
  fireEvent.click(await screen.findByRole("button", { name: "Next" }));
  expect(await screen.findByText("Page 2, 1 of 3")).toBeTruthy();
  expect(screen.getByText("cs-3")).toBeTruthy();

  fireEvent.click(screen.getByRole("button", { name: "Previous" }));

  expect(await screen.findByText("cs-1")).toBeTruthy();
});

it("keeps the search in the address and begins at the first page", async () => {
  const page = open(<DevicesPage />, answers, "/devices");
  fireEvent.click(await screen.findByRole("button", { name: "Next" }));
  await screen.findByText("cs-3");

  fireEvent.change(screen.getByLabelText("Search in keys, models and facts"), {
    target: { value: "orchard=Ashcombe" },
  });

  await waitFor(() =>
    expect(page.of("GET", "/api/v1/devices").at(-1)?.query).toEqual({ search: "orchard=Ashcombe" }),
  );
  expect(page.here()).toContain("search=orchard");
});

it("says how devices come to be where there is none", async () => {
  open(<DevicesPage />, {
    "GET /api/v1/devices": { devices: [], total: 0, next: null, models: [] },
  });

  expect(await screen.findByText("No devices yet")).toBeTruthy();
  expect(screen.getByRole("link", { name: "Look at the inlets" }).getAttribute("href")).toBe("/inlets");
});

it("does not take a search without result for an empty registry", async () => {
  open(
    <DevicesPage />,
    { "GET /api/v1/devices": { devices: [], total: 0, next: null, models: [] } },
    "/devices?search=nothing",
  );

  expect(await screen.findByText("No device matches")).toBeTruthy();
});
