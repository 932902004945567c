import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { open } from "../testing/page";
import { Tags } from "./tags";

const air = {
  name: "climate,device=cs-01 air",
  found: 12,
  wanted: 9,
  written: 8,
  refused: 1,
  waiting: 0,
  last: "2026-04-18T05:30:00Z",
  value: 4.5,
};

it("shows what became of each tag and finds one by its name", async () => {
  open(<Tags outlet="historian" />, {
    "GET /api/v1/outlets/historian/tags": {
      known: true,
      since: "2026-04-18T05:00:00Z",
      messages: 40,
      more: false,
      tags: [air, { ...air, name: "climate,device=cs-02 wetness", refused: 0, last: null, value: null }],
    },
  });

  const row = (await screen.findByText("climate,device=cs-01 air")).closest("tr");
  expect(row?.textContent).toMatch(/^climate,device=cs-01 air1298104\.5/);
  expect(screen.getByText("never")).toBeTruthy();
  expect(screen.getByText(/2 tags in the last 40 messages/)).toBeTruthy();

  fireEvent.change(screen.getByLabelText("Search in names of tags"), { target: { value: "WET" } });
  expect(screen.queryByText("climate,device=cs-01 air")).toBeNull();
  expect(screen.getByText("climate,device=cs-02 wetness")).toBeTruthy();
});

it("shows nothing for a kind whose destinations know no tags", async () => {
  const { calls } = open(<Tags outlet="desk" />, {
    "GET /api/v1/outlets/desk/tags": { known: false, since: null, messages: 0, more: false, tags: [] },
  });

  await waitFor(() => expect(calls.length).toBe(1));
  await waitFor(() => expect(document.body.textContent).toBe(""));
});
