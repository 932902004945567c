import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { open, Refusal } from "../testing/page";
import { DeadPage } from "./dead";

const letter = (number: number) => ({
  delivery: `delivery-${number}`,
  message: `message-${number}`,
  lane: "frost-calls",
  outlet: "works-desk",
  device: `cs-${number}`,
  attempts: 3,
  died: "2026-04-12T03:20:00Z",
  cause: "400",
  reason: "the destination answered 400",
  simulated: null,
});

const group = {
  lane: "frost-calls",
  outlet: "works-desk",
  cause: "400",
  count: 3,
  first: "2026-04-12T03:00:00Z",
  last: "2026-04-12T03:20:00Z",
};

const pages = ({ query }: { query: Record<string, string> }) =>
  query.after === "more"
    ? { total: 3, groups: [group], letters: [letter(3)], next: null }
    : { total: 3, groups: [group], letters: [letter(1), letter(2)], next: "more" };

const answers = {
  "GET /api/v1/dead": pages,
  "GET /api/v1/jobs": { jobs: [], next: null },
  "GET /api/v1/outlets": [{ name: "works-desk" }, { name: "mailbox" }],
  "POST /api/v1/dead/retry": { count: 1, job: {} },
  "POST /api/v1/dead/drop": { count: 1, job: {} },
};

it("says what a dead letter is where there is none", async () => {
  open(<DeadPage />, {
    ...answers,
    "GET /api/v1/dead": { total: 0, groups: [], letters: [], next: null },
  });

  expect((await screen.findByText("No dead letters")).textContent).toBeTruthy();
});

it("shows the next page under the first", async () => {
  const page = open(<DeadPage />, answers);
  fireEvent.click(await screen.findByText("Show more"));

  await screen.findByText("cs-3");
  expect(screen.getByText("cs-1")).toBeTruthy();
  expect(screen.queryByText("Show more")).toBeNull();
  expect(page.of("GET", "/api/v1/dead").map((call) => call.query.after)).toEqual([undefined, "more"]);
});

it("retries those that are ticked, and no others", async () => {
  const page = open(<DeadPage />, answers);
  fireEvent.click(await screen.findByLabelText("Tick cs-2"));
  fireEvent.click(screen.getByLabelText("Retry 1 ticked"));

  await waitFor(() => expect(page.of("POST", "/api/v1/dead/retry")).toHaveLength(1));
  expect(page.of("POST", "/api/v1/dead/retry")[0]?.body).toEqual({ deliveries: ["delivery-2"] });
});

it("ticks all that are shown at once, and none again", async () => {
  open(<DeadPage />, answers);
  fireEvent.click(await screen.findByLabelText("Tick all"));
  expect(screen.getByText("2 ticked")).toBeTruthy();

  fireEvent.click(screen.getByLabelText("Tick all"));
  expect(screen.getByText("tick some to act on them together")).toBeTruthy();
});

it("drops only what was asked about a second time", async () => {
  const page = open(<DeadPage />, answers);
  fireEvent.click(await screen.findByLabelText("Drop 1 of cs-1"));
  expect(page.of("POST", "/api/v1/dead/drop")).toHaveLength(0);

  fireEvent.click(screen.getByRole("button", { name: "Drop" }));

  await waitFor(() => expect(page.of("POST", "/api/v1/dead/drop")).toHaveLength(1));
  expect(page.of("POST", "/api/v1/dead/drop")[0]?.body).toEqual({ deliveries: ["delivery-1"] });
});

it("sends dead letters to another outlet", async () => {
  const page = open(<DeadPage />, answers);
  fireEvent.click(await screen.findByLabelText("Send 1 of cs-1 elsewhere"));
  fireEvent.click(await screen.findByRole("button", { name: "mailbox" }));

  await waitFor(() => expect(page.of("POST", "/api/v1/dead/retry")).toHaveLength(1));
  expect(page.of("POST", "/api/v1/dead/retry")[0]?.query).toEqual({ to: "mailbox" });
});

it("tells why an act was refused", async () => {
  open(<DeadPage />, { ...answers, "POST /api/v1/dead/retry": new Refusal(409, "The job runs already.") });
  fireEvent.click(await screen.findByLabelText("Retry 1 of cs-1"));

  expect((await screen.findByRole("alert")).textContent).toBe("The job runs already.");
});

it("takes back what was dropped a moment ago", async () => {
  const soon = new Date(Date.now() + 300_000).toISOString();
  const page = open(<DeadPage />, {
    ...answers,
    "GET /api/v1/jobs": {
      jobs: [
        {
          id: "j1",
          name: "d1",
          what: "drop",
          by: "admin",
          done: 2,
          undoUntil: soon,
          undone: null,
          terms: {},
        },
      ],
      next: null,
    },
    "POST /api/v1/jobs/j1/undo": { count: 2 },
  });
  expect(await screen.findByText(/2 dead letters were dropped by admin/)).toBeTruthy();

  fireEvent.click(screen.getByRole("button", { name: "Take back" }));

  await waitFor(() => expect(page.of("POST", "/api/v1/jobs/j1/undo")).toHaveLength(1));
});

it("asks for a lane's dead letters when its address says so", async () => {
  const page = open(<DeadPage />, answers, "/dead?lane=frost-calls&cause=400");
  await screen.findByText("cs-1");

  expect(page.of("GET", "/api/v1/dead")[0]?.query).toMatchObject({ lane: "frost-calls", cause: "400" });
});
