import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { open, Refusal } from "../testing/page";
import { JobsPage } from "./jobs";

const job = (name: string, more: object = {}) => ({
  id: `id-${name}`,
  name,
  what: "retry",
  terms: { dead: { lane: "frost-calls", cause: "503" } },
  by: "admin",
  begun: "2026-04-12T03:20:00Z",
  ended: null,
  state: "done",
  expected: 40,
  done: 40,
  note: null,
  undoUntil: null,
  undone: null,
  ...more,
});

const answers = {
  "GET /api/v1/jobs": { jobs: [job("t1")], next: null },
  "GET /api/v1/overview": { lanes: [{ lane: "frost-calls" }, { lane: "archive" }] },
  "GET /api/v1/outlets": [{ name: "works-desk" }],
  "POST /api/v1/replays/preview": {
    messages: 12,
    deliveries: 15,
    first: "2026-04-12T02:00:00Z",
    last: "2026-04-12T03:00:00Z",
    sample: [],
    note: null,
  },
};

it("says what will be listed where there is no job yet", async () => {
  open(<JobsPage />, { ...answers, "GET /api/v1/jobs": { jobs: [], next: null } });

  expect(await screen.findByText("No jobs yet")).toBeTruthy();
});

it("tells a job's terms in words", async () => {
  open(<JobsPage />, answers);

  expect(await screen.findByText("lane frost-calls, cause 503")).toBeTruthy();
  expect(screen.getByText("dead letters tried again")).toBeTruthy();
});

it("shows how far a running job is, and stops it", async () => {
  const page = open(<JobsPage />, {
    ...answers,
    "GET /api/v1/jobs": { jobs: [job("t2", { state: "running", done: 10 })], next: null },
    "POST /api/v1/jobs/id-t2/cancel": job("t2", { state: "cancelled" }),
  });
  const bar = (await screen.findByLabelText("Progress of t2")) as HTMLProgressElement;
  expect(bar.value).toBe(10);
  expect(bar.max).toBe(40);

  fireEvent.click(screen.getByRole("button", { name: "Stop" }));

  await waitFor(() => expect(page.of("POST", "/api/v1/jobs/id-t2/cancel")).toHaveLength(1));
});

it("offers to take a drop back only as long as that can be done", async () => {
  const at = (seconds: number) => new Date(Date.now() + seconds * 1000).toISOString();
  open(<JobsPage />, {
    ...answers,
    "GET /api/v1/jobs": {
      jobs: [
        job("d1", { what: "drop", undoUntil: at(300) }),
        job("d2", { what: "drop", undoUntil: at(-300) }),
        job("d3", { what: "drop", undoUntil: at(300), undone: at(-10) }),
      ],
      next: null,
    },
  });

  expect(await screen.findByLabelText("Take back d1")).toBeTruthy();
  expect(screen.queryByLabelText("Take back d2")).toBeNull();
  expect(screen.queryByLabelText("Take back d3")).toBeNull();
});

it("reads older jobs on request", async () => {
  const page = open(<JobsPage />, {
    ...answers,
    "GET /api/v1/jobs": ({ query }: { query: Record<string, string> }) =>
      query.after ? { jobs: [job("t1")], next: null } : { jobs: [job("t2")], next: "2026~x" },
  });
  fireEvent.click(await screen.findByText("Show more"));

  expect(await screen.findByText("t1")).toBeTruthy();
  expect(page.of("GET", "/api/v1/jobs").map((call) => call.query.after)).toContain("2026~x");
});

it("tells why jobs cannot be read", async () => {
  open(<JobsPage />, { ...answers, "GET /api/v1/jobs": new Refusal(503, "The database is away.") });

  expect(await screen.findByText(/The database is away/)).toBeTruthy();
});
