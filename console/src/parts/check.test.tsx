import { fireEvent, render, screen, waitFor } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { open } from "../testing/page";
import { Check, Steps } from "./check";

it("shows each step, and what to do about the one that failed", () => {
  render(
    <Steps
      steps={[
        { step: "name found", result: "passed", told: "127.0.0.1", mend: null, offer: null, micros: 800 },
        {
          step: "connected",
          result: "failed",
          told: "nobody listens at port 1",
          mend: "Look at the port.",
          offer: null,
          micros: 90,
        },
      ]}
      onAccept={() => {}}
    />,
  );
  const steps = screen.getAllByRole("listitem");
  expect(steps).toHaveLength(2);
  expect(steps[0]?.textContent).toContain("passed127.0.0.1");
  expect(steps[1]?.textContent).toContain("failednobody listens at port 1");
  expect(steps[1]?.textContent).toContain("Look at the port.");
});

it("shows what it proposes to trust before a person agrees to it", () => {
  const accepted = vi.fn();
  render(
    <Steps
      steps={[
        {
          step: "TLS",
          result: "failed",
          told: "its certificate is signed by an authority this machine does not trust: CN=Larkmoor",
          mend: "Trust this authority for this outlet.",
          offer: {
            act: "Trust this authority for this outlet",
            shows: ["Subject: CN=Larkmoor", "SHA-256 fingerprint: 01:02"],
            settings: { authority: "-----BEGIN CERTIFICATE-----" },
          },
          micros: 90,
        },
      ]}
      onAccept={accepted}
    />,
  );
  expect(screen.getByText("SHA-256 fingerprint: 01:02")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Trust this authority for this outlet" }));
  expect(accepted).toHaveBeenCalledWith({ authority: "-----BEGIN CERTIFICATE-----" });
});

it("takes an accepted setting over and says to check again", async () => {
  const offered = { act: "Trust it", shows: [], settings: { authority: "PEM" } };
  const accepted = vi.fn();
  open(<Check of="outlets" name="cloud" onAccept={accepted} />, {
    "POST /api/v1/outlets/cloud/check": [
      { step: "TLS", result: "failed", told: "unknown", mend: null, offer: offered, micros: 9 },
    ],
  });
  fireEvent.click(screen.getByRole("button", { name: "Check" }));
  fireEvent.click(await screen.findByRole("button", { name: "Trust it" }));
  await waitFor(() => expect(accepted).toHaveBeenCalledWith({ authority: "PEM" }));
  expect(await screen.findByText("Applied. Check again.")).toBeTruthy();
  expect(screen.queryByRole("list")).toBeNull();
});
