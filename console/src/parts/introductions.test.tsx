import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { open } from "../testing/page";
import { Introductions } from "./introductions";
import { byDevice } from "./made-there";
import { DraftTrial } from "./step-trial";

const known = {
  device: "cs-01",
  state: "known",
  step: null,
  called: "larkmoor-cs-01",
  id: "d-1000",
  existed: false,
  ownCredential: true,
  since: "2026-04-18T05:30:00Z",
  next: null,
  why: null,
  reason: null,
  revision: 2,
  by: "a message",
};
const refused = {
  ...known,
  device: "cs-02",
  state: "refused",
  step: "create",
  id: null,
  why: "name taken",
  reason: "the destination answered 409",
};
const page = {
  recipe: true,
  counts: { waiting: 0, known: 1, refused: 1, "refused: name taken": 1 },
  standsStill: null,
  paused: null,
  made: 1,
  introductions: [known, refused],
  next: null,
};
const made = {
  number: 1,
  device: "cs-01",
  what: "device",
  name: "larkmoor-cs-01",
  id: "d-1000",
  at: "2026-04-18T05:30:00Z",
  by: "a message",
  revision: 2,
  differs: ["renamed"],
  compared: "2026-04-18T06:30:00Z",
};
const at = "/api/v1/outlets/cloud";
const answers = {
  [`GET ${at}/introductions`]: page,
  [`GET ${at}/made`]: { made: [made, { ...made, number: 2, what: "credential" }], next: null },
};
const done = { id: "j", name: "r7", state: "done", done: 2, expected: 2, note: "2 known", terms: {} };

it("shows how devices stand there and why one is refused", async () => {
  open(<Introductions outlet="cloud" />, answers);

  const row = (await screen.findAllByText("cs-02"))[0]?.closest("tr");
  expect(row?.textContent).toContain("name taken");
  expect(row?.textContent).toContain("create: the destination answered 409");
  expect(screen.getByText("1 known, 1 refused (name taken 1)")).toBeTruthy();
});

it("shows nothing for an outlet without a recipe", async () => {
  const { calls } = open(<Introductions outlet="desk" />, {
    "GET /api/v1/outlets/desk/introductions": { ...page, recipe: false, made: 0, introductions: [] },
  });

  await waitFor(() => expect(calls.length).toBe(1));
  await waitFor(() => expect(document.body.textContent).toBe(""));
});

it("says what stands in the way of all and tries again", async () => {
  const { of } = open(<Introductions outlet="cloud" />, {
    ...answers,
    [`GET ${at}/introductions`]: { ...page, standsStill: "create: it needs the right to create devices" },
    [`POST ${at}/introductions/resume`]: {},
  });

  const alert = await screen.findByRole("alert");
  expect(alert.textContent).toContain("it needs the right to create devices");
  fireEvent.click(within(alert).getByText("Try again now"));
  await waitFor(() => expect(of("POST", `${at}/introductions/resume`).length).toBe(1));
});

it("looks at what introducing chosen devices would come to and introduces them", async () => {
  const { of } = open(<Introductions outlet="cloud" />, {
    ...answers,
    [`POST ${at}/introductions/dry-run`]: {
      chosen: 3,
      lookedAt: 3,
      counts: { "would create": 2, "name taken": 1 },
      findings: [{ device: "cs-02", name: "cs-02", fate: "name taken", reason: "another is called cs-02" }],
      monthly: 0.24,
      currency: "€",
    },
    [`POST ${at}/introductions`]: { ...done, state: "running" },
    "GET /api/v1/jobs/j": done,
  });

  fireEvent.click(await screen.findByText("By key"));
  expect(screen.getByText("Introduce").hasAttribute("disabled")).toBe(true);
  fireEvent.change(screen.getByLabelText("Keys"), { target: { value: "cs-*" } });
  fireEvent.click(screen.getByText("Dry run"));
  expect(await screen.findByText("would create 2, name taken 1")).toBeTruthy();
  expect(screen.getByText(/another is called cs-02/)).toBeTruthy();

  fireEvent.click(screen.getByText("Introduce"));
  expect(await screen.findByText("2 known")).toBeTruthy();
  expect(of("POST", `${at}/introductions`)[0]?.body).toEqual({ pattern: "cs-*" });
});

it("shows the request of each step and sends the next one only when told", async () => {
  const planned = { right: null, fields: {}, body: null, failure: null, isNext: false };
  const { of } = open(<Introductions outlet="cloud" />, {
    ...answers,
    [`POST ${at}/introductions/plan`]: {
      device: "cs-01",
      steps: [
        { ...planned, step: "find", request: "GET http://cloud/devices?key=cs-01", isNext: true },
        {
          ...planned,
          step: "create",
          request: "POST http://cloud/devices",
          body: '{"key":"cs-01"}',
          right: "create devices",
        },
      ],
      now: null,
    },
    [`POST ${at}/introductions/step`]: {
      step: "find",
      request: "GET http://cloud/devices?key=cs-01",
      body: null,
      outcome: "absent",
      reason: "the answer has no id",
      answer: '{"items":[]}',
      now: { ...known, state: "introducing", step: "create" },
    },
  });

  fireEvent.change(await screen.findByLabelText("Device"), { target: { value: "cs-01" } });
  fireEvent.click(screen.getByText("Show requests"));
  expect(await screen.findByText('{"key":"cs-01"}')).toBeTruthy();
  expect(screen.getByText("needs the right to create devices")).toBeTruthy();
  expect(of("POST", `${at}/introductions/step`).length).toBe(0);

  fireEvent.click(screen.getByText("Send find"));
  expect(await screen.findByText('{"items":[]}')).toBeTruthy();
});

it("shows what a recipe that is not applied yet would ask, and sends nothing", async () => {
  const fields = { kind: "http", introduction: { create: {} } };
  const { of, calls } = open(<DraftTrial outlet="cloud" fields={fields} />, {
    [`POST ${at}/introductions/plan`]: {
      device: "cs-01",
      steps: [
        {
          step: "create",
          right: null,
          request: "POST http://cloud/devices",
          fields: {},
          body: null,
          failure: "there is no device.facts.site",
          isNext: true,
        },
      ],
      now: null,
    },
    [`POST ${at}/introductions/dry-run`]: {
      chosen: 2,
      lookedAt: 2,
      counts: { "lacks a fact": 2 },
      findings: [],
      monthly: null,
      currency: null,
    },
  });

  fireEvent.change(screen.getByLabelText("Try this recipe on a device"), { target: { value: "cs-01" } });
  fireEvent.keyDown(screen.getByLabelText("Try this recipe on a device"), { key: "Enter" });
  expect(await screen.findByText("there is no device.facts.site")).toBeTruthy();
  fireEvent.click(screen.getByText("Dry run over all devices"));
  expect(await screen.findByText("lacks a fact 2")).toBeTruthy();

  expect(of("POST", `${at}/introductions/plan`)[0]?.body).toEqual({ device: "cs-01", fields });
  expect(of("POST", `${at}/introductions/dry-run`)[0]?.body).toEqual({ fields });
  expect(calls.length).toBe(2);
});

it("removes chosen devices there after asking", async () => {
  const { of } = open(<Introductions outlet="cloud" />, {
    ...answers,
    [`POST ${at}/made/remove`]: { ...done, state: "running" },
    "GET /api/v1/jobs/j": { ...done, note: null },
  });

  fireEvent.click(await screen.findByLabelText("Choose cs-01"));
  fireEvent.click(screen.getByText("Remove 1 chosen"));
  expect(of("POST", `${at}/made/remove`).length).toBe(0);
  fireEvent.click(screen.getByText("Remove there"));

  await waitFor(() => expect(of("POST", `${at}/made/remove`)[0]?.body).toEqual({ keys: ["cs-01"] }));
  expect(await screen.findByText("2 done")).toBeTruthy();
});

it("puts together what was made of a device", () => {
  const all = [made, { ...made, number: 2, what: "credential" }, { ...made, number: 3, device: "cs-09" }];

  expect(byDevice(all).map(([device, its]) => `${device} ${its.length}`)).toEqual(["cs-01 2", "cs-09 1"]);
});
