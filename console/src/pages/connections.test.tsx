import { fireEvent, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { open } from "../testing/page";
import { ConnectionsPage } from "./connections";

const plant = {
  name: "plant",
  kind: "mqtt",
  address: "mqtt://broker.larkmoor.example:1883",
  credential: "plant-login",
  inlets: ["pumps"],
  outlets: ["field"],
  status: {
    state: "refused",
    reason: "the broker does not let user `pumps` in",
    since: "2026-05-01T10:00:00Z",
    lastGood: null,
  },
};

const kinds = [
  { name: "http", connection: null, shares: null, connectionCredentials: [] },
  {
    name: "mqtt",
    connection: { title: "MQTT broker", description: "A broker." },
    shares: "mqtt",
    connectionCredentials: ["login"],
  },
];

const schema = {
  $defs: {
    connection: {
      properties: { kind: {}, to: {} },
      allOf: [
        {
          if: { properties: { kind: { const: "mqtt" } } },
          // biome-ignore lint/suspicious/noThenProperty: a keyword of JSON Schema
          then: {
            properties: {
              to: { type: "object", properties: { address: { title: "Address", type: "string" } } },
            },
          },
        },
      ],
    },
  },
};

const part = {
  thing: "connections",
  name: "plant",
  content: { kind: "mqtt", to: { address: plant.address } },
  text: "",
  mark: "1",
  revision: 3,
  drafts: [],
  dependents: [],
  waiting: 0,
  dead: 0,
};

const answers = {
  "GET /api/v1/kinds": kinds,
  "GET /api/v1/setup/schema": schema,
  "GET /api/v1/setup/parts/connections/plant": part,
  "POST /api/v1/setup/parts/connections/plant/check": { problems: [], warnings: [] },
  "GET /api/v1/connections/plant/diary": [
    {
      at: "2026-05-01T10:00:00Z",
      node: "north",
      line: "refused: the broker does not let user `pumps` in",
      detail: null,
    },
  ],
};

it("shows how a connection stands, why, and what uses it", async () => {
  open(<ConnectionsPage name="plant" />, { ...answers, "GET /api/v1/connections": [plant] });
  expect(await screen.findByText("the broker does not let user `pumps` in")).toBeTruthy();
  expect(screen.getByRole("link", { name: "inlet pumps" }).getAttribute("href")).toBe("/inlets/pumps");
  expect(screen.getByRole("link", { name: "outlet field" }).getAttribute("href")).toBe("/outlets/field");
  expect(await screen.findByText(/^refused: the broker/)).toBeTruthy();
});

it("checks a connection step by step", async () => {
  open(<ConnectionsPage name="plant" />, {
    ...answers,
    "GET /api/v1/connections": [plant],
    "POST /api/v1/connections/plant/check": [
      {
        step: "signed in",
        result: "failed",
        told: "wrong password",
        mend: "Save the right one.",
        offer: null,
        micros: 9,
      },
    ],
  });
  fireEvent.click((await screen.findAllByRole("button", { name: "Check" }))[0] as HTMLElement);
  expect(await screen.findByText("wrong password")).toBeTruthy();
});

it("says what to do where there is none, and begins with the only kind there is", async () => {
  open(<ConnectionsPage />, { ...answers, "GET /api/v1/connections": [] });
  expect(await screen.findByText("No connections yet")).toBeTruthy();
  expect(await screen.findByLabelText(/Address/)).toBeTruthy();
});
