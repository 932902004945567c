import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { Mark } from "./mark";

afterEach(cleanup);

describe("a state's mark", () => {
  it("tells the state by a word and a shape, not by colour alone", () => {
    const { container } = render(<Mark state="dead" />);
    expect(screen.getByText("dead")).toBeDefined();
    const dead = container.querySelector("path")?.getAttribute("d");
    cleanup();
    const delivered = render(<Mark state="delivered" />)
      .container.querySelector("path")
      ?.getAttribute("d");
    expect(dead).not.toBe(delivered);
  });

  it("shows a label of its own where one is given", () => {
    render(<Mark state="waiting" label="frost-calls" />);
    expect(screen.getByText("frost-calls")).toBeDefined();
  });
});
