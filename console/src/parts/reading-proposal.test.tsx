import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { open } from "../testing/page";
import { Reading } from "./reading-proposal";

const choice = (expression: string, value: unknown, more: Record<string, string> = {}) => ({
  expression,
  value,
  why: "by its name",
  with: more,
});

const found = {
  message: "01",
  proposal: {
    format: null,
    parts: [choice("data.readings", "2 items")],
    device: [choice("data.meter", "m1"), choice("meta.whole.gateway", "gw-1")],
    time: [choice("meta.whole.sent", 1776136800, { timeForm: "seconds" })],
    payload: [],
    sequence: [],
    fields: { meter: "m1", v: 1 },
    trouble: null,
  },
};

const part = { content: { kind: "http", at: { path: "i" } }, mark: "m1" };

const answers = {
  "GET /api/v1/setup/parts/inlets/i": part,
  "GET /api/v1/inlets/i/proposal": ({ query }: { query: Record<string, string> }) =>
    query.one
      ? { ...found, proposal: { ...found.proposal, parts: [], device: [choice("data.gateway", "gw-1")] } }
      : found,
  "PUT /api/v1/setup/parts/inlets/i": { revision: 2 },
};

it("proposes settings for an inlet that does not say which device sends, and applies what was chosen", async () => {
  const page = open(<Reading inlet="i" />, answers);
  expect(await screen.findByText("2 fields in the first message")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "meta.whole.gateway" }));
  expect((screen.getByLabelText("Device") as HTMLInputElement).value).toBe("meta.whole.gateway");

  fireEvent.click(screen.getByRole("button", { name: "Apply" }));

  await waitFor(() => expect(page.of("PUT", "/api/v1/setup/parts/inlets/i")).toHaveLength(1));
  expect(page.of("PUT", "/api/v1/setup/parts/inlets/i")[0]?.body).toMatchObject({
    content: {
      kind: "http",
      parts: "data.readings",
      device: "meta.whole.gateway",
      time: "meta.whole.sent",
      timeForm: "seconds",
    },
    basedOn: "m1",
  });
});

it("looks at the arrival as one message when a person says so", async () => {
  open(<Reading inlet="i" />, answers);
  fireEvent.click(await screen.findByRole("checkbox"));
  await waitFor(() =>
    expect((screen.getByLabelText("Device") as HTMLInputElement).value).toBe("data.gateway"),
  );
});

it("stays out of the way once the device is said, and opens when asked", async () => {
  open(<Reading inlet="i" />, {
    ...answers,
    "GET /api/v1/setup/parts/inlets/i": { ...part, content: { ...part.content, device: "data.id" } },
  });
  expect(await screen.findByText("data.id")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Propose settings" }));
  expect(await screen.findByLabelText("Device")).toBeTruthy();
});
