import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { open, Refusal } from "../testing/page";
import { Beginning, SampleLoaded } from "./beginning";

it("offers an inlet or a sample, and shows the messages once the sample is loaded", async () => {
  const page = open(<Beginning />, { "POST /api/v1/sample": { parts: ["inlets/sample-stations"] } });
  fireEvent.click(screen.getByRole("button", { name: "Load a sample" }));
  await waitFor(() => expect(page.here()).toBe("/messages"));
});

it("begins with an inlet", async () => {
  const page = open(<Beginning />, {});
  fireEvent.click(screen.getByRole("button", { name: "Make an inlet" }));
  await waitFor(() => expect(page.here()).toBe("/inlets/new"));
});

it("says why the sample cannot be removed", async () => {
  open(<SampleLoaded />, {
    "GET /api/v1/sample": { parts: ["inlets/sample-stations"] },
    "DELETE /api/v1/sample": new Refusal(422, "lane mine takes messages of inlet sample-stations"),
  });
  fireEvent.click(await screen.findByRole("button", { name: "Remove sample" }));
  fireEvent.click(within(await screen.findByRole("alertdialog")).getByRole("button", { name: "Remove" }));
  expect(await screen.findByText(/lane mine takes messages/)).toBeTruthy();
});

it("is silent where no sample is loaded", async () => {
  const page = open(<SampleLoaded />, { "GET /api/v1/sample": { parts: [] } });
  await waitFor(() => expect(page.of("GET", "/api/v1/sample")).toHaveLength(1));
  expect(screen.queryByText(/sample is loaded/)).toBeNull();
});
