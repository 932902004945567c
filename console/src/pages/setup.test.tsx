import { screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { open } from "../testing/page";
import { SetupPage } from "./setup";

vi.mock("../parts/setup-file", () => ({ SetupFile: () => null }));

const revision = (number: number, note: string | null) => ({
  revision: number,
  adopted: "2026-04-12T03:00:00Z",
  adoptedBy: "admin",
  note,
  yaml: "",
});

it("marks the active revision, which alone is not offered to be applied again", async () => {
  open(<SetupPage />, {
    "GET /api/v1/setup/revisions": { revisions: [revision(2, "frost calls"), revision(1, null)], next: null },
  });

  const active = (await screen.findByText("frost calls")).closest("tr");
  expect(active?.textContent).toContain("active");
  expect(active?.textContent).not.toContain("apply again");
  const first = screen.getByText("no note").closest("tr");
  expect(first?.textContent).not.toContain("active");
  expect(first?.textContent).toContain("Compare, apply again");
});
