import { render, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { Steps } from "./check";

it("shows each step, and what to do about the one that failed", () => {
  render(
    <Steps
      steps={[
        { step: "name found", result: "passed", told: "127.0.0.1", mend: null, micros: 800 },
        {
          step: "connected",
          result: "failed",
          told: "nobody listens at port 1",
          mend: "Look at the port.",
          micros: 90,
        },
      ]}
    />,
  );
  const steps = screen.getAllByRole("listitem");
  expect(steps).toHaveLength(2);
  expect(steps[0]?.textContent).toContain("passed127.0.0.1");
  expect(steps[1]?.textContent).toContain("failednobody listens at port 1");
  expect(steps[1]?.textContent).toContain("Look at the port.");
});
