import { screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { open } from "../testing/page";
import { OwnTroubles } from "./own-troubles";

const status = {
  troubles: [
    {
      what: "outlet",
      name: "desk",
      since: "2026-05-01T10:00:00Z",
      text: "outlet desk is blocked: wrong password",
    },
  ],
  spools: [],
  nodes: [{ name: "one" }],
};

const answers = (lanes: string[]) => ({
  "GET /api/v1/status": status,
  "GET /api/v1/inlets": [{ name: "holtra", own: true, lanes }],
});

it("offers to have troubles mailed where no lane takes Holtra's own messages", async () => {
  open(<OwnTroubles />, answers([]));
  expect(await screen.findByText(/Outlet desk is blocked/)).toBeTruthy();
  const offer = await screen.findByRole("link", { name: "Have troubles mailed" });
  expect(offer.getAttribute("href")).toBe("/lanes/troubles?inlet=holtra&pick=meta.type+%3D%3D+%27alarm%27");
});

it("offers nothing where somebody is told", async () => {
  open(<OwnTroubles />, answers(["troubles-mail"]));
  expect(await screen.findByText(/Outlet desk is blocked/)).toBeTruthy();
  expect(screen.queryByRole("link", { name: "Have troubles mailed" })).toBeNull();
});
