import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { open, Refusal } from "../testing/page";
import { AlarmsPage } from "./alarms";

const alarm = (number: number, more: object = {}) => ({
  number,
  id: `alarm-${number}`,
  lookout: "frost",
  key: `cs-${number}`,
  device: `cs-${number}`,
  point: null,
  simulated: false,
  state: "open",
  since: "2026-04-12T03:10:00Z",
  raised: "2026-04-12T03:10:00Z",
  cleared: null,
  cause: "message-1",
  text: "data.wet is -0.2, at or below 0",
  value: -0.2,
  extreme: -0.9,
  extremeAt: "2026-04-12T03:20:00Z",
  told: true,
  acknowledged: null,
  acknowledgedBy: null,
  shelvedUntil: null,
  ...more,
});

const rehearsed = {
  problems: [],
  on: 0,
  off: 1.5,
  rehearsed: {
    from: "2026-04-12T01:10:00Z",
    to: "2026-04-12T05:10:00Z",
    messages: 12,
    cut: false,
    watched: 1,
    alarms: [],
    keys: [],
    shown: null,
    values: [],
  },
};

const answers = {
  "GET /api/v1/lookouts": [{ name: "frost" }, { name: "silent-probes" }],
  "GET /api/v1/alarms": {
    alarms: [alarm(2), alarm(1, { state: "cleared", cleared: "2026-04-12T03:40:00Z" })],
    next: null,
  },
  "GET /api/v1/alarms/2": { alarm: alarm(2), acts: [] },
  "POST /api/v1/lookouts/frost/rehearse": rehearsed,
  "POST /api/v1/alarms/2/acknowledge": { alarm: alarm(2, { state: "acknowledged" }), acts: [] },
};

it("lists those that are raised, and shows the first", async () => {
  open(<AlarmsPage />, answers);

  expect(await screen.findByText("cs-2", { selector: "a *" })).toBeTruthy();
  expect(screen.queryByText("cs-1")).toBeNull();
});

it("says that a lookout compares no value, instead of drawing an empty plot", async () => {
  open(<AlarmsPage />, answers);

  expect((await screen.findByText(/compares no value with a level/)).textContent).toContain("12 messages");
});

it("tells a removed lookout from another failure", async () => {
  open(<AlarmsPage />, {
    ...answers,
    "POST /api/v1/lookouts/frost/rehearse": new Refusal(404, "There is no lookout `frost`."),
  });
  expect(await screen.findByText(/lookout frost has been removed/)).toBeTruthy();

  open(<AlarmsPage />, {
    ...answers,
    "POST /api/v1/lookouts/frost/rehearse": new Refusal(503, "The database is away."),
  });
  expect(await screen.findByText(/The database is away/)).toBeTruthy();
  expect(screen.queryByText(/has been removed/)).toBeNull();
});

it("asks for one lookout's alarms", async () => {
  const page = open(<AlarmsPage />, answers);
  await screen.findByRole("option", { name: "silent-probes" });
  fireEvent.change(screen.getByLabelText("lookout"), { target: { value: "silent-probes" } });

  await waitFor(() =>
    expect(page.of("GET", "/api/v1/alarms").at(-1)?.query).toMatchObject({ lookout: "silent-probes" }),
  );
});

it("asks for more of those that are raised only while there can be some", async () => {
  open(<AlarmsPage />, { ...answers, "GET /api/v1/alarms": { alarms: [alarm(2)], next: "raised-2" } });
  expect(await screen.findByText("Show more")).toBeTruthy();

  open(<AlarmsPage />, {
    ...answers,
    "GET /api/v1/alarms": {
      alarms: [alarm(2), alarm(1, { state: "cleared", cleared: "2026-04-12T03:40:00Z" })],
      next: "cleared-1",
    },
  });
  await screen.findByText("cs-2", { selector: "a *" });
  expect(screen.queryByText("Show more")).toBeNull();
});

it("says what to do where nothing is watched", async () => {
  open(<AlarmsPage />, {
    "GET /api/v1/lookouts": [],
    "GET /api/v1/alarms": { alarms: [], next: null },
  });

  await waitFor(() => expect(document.body.textContent).toContain("lookout"));
});
