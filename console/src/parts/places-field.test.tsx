import { fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { expect, it, vi } from "vitest";
import type { Looking } from "../looking";
import { open, Refusal } from "../testing/page";
import { PlacesField } from "./places-field";

const place = (path: string, below: object[] = [], messages = 10) => ({
  name: path.split("/").at(-1),
  path,
  messages,
  places: Math.max(1, below.length),
  last: below.length ? null : "12.5",
  lastAt: below.length ? null : "2026-05-01T10:00:00Z",
  retained: false,
  below,
  notShown: 0,
});

const look = {
  within: "#",
  seconds: 5,
  messages: 30,
  found: [place("pumps", [place("pumps/north"), place("pumps/south")], 20), place("mast")],
  notShown: 0,
  beyond: 0,
};

function Held({ told, connection = "plant" }: { told: (value: unknown) => void; connection?: string }) {
  const [value, setValue] = useState<unknown>(["valves/#"]);
  return (
    <PlacesField
      label="Topics"
      value={value}
      error={undefined}
      connection={connection}
      onChange={(next) => {
        setValue(next);
        told(next);
      }}
    />
  );
}

it("takes what is typed, line by line", () => {
  const told = vi.fn();
  open(<Held told={told} />, {});
  fireEvent.change(screen.getByLabelText("Topics, 2"), { target: { value: "mast/#" } });
  expect(told).toHaveBeenLastCalledWith(["valves/#", "mast/#"]);
  fireEvent.click(screen.getByTitle("Remove valves/#"));
  expect(told).toHaveBeenLastCalledWith(["mast/#"]);
});

it("ticks what comes over the connection now", async () => {
  const told = vi.fn();
  const page = open(<Held told={told} />, { "POST /api/v1/connections/plant/look": look });
  fireEvent.click(screen.getByRole("button", { name: "Look around" }));
  fireEvent.click(await screen.findByRole("checkbox", { name: "mast" }));
  expect(told).toHaveBeenLastCalledWith(["valves/#", "mast"]);
  fireEvent.click(screen.getByRole("checkbox", { name: "pumps" }));
  expect(told).toHaveBeenLastCalledWith(["valves/#", "mast", "pumps/#"]);
  expect((screen.getByRole("checkbox", { name: "north" }) as HTMLInputElement).disabled).toBe(true);
  expect(screen.getByText("30 messages in 5 s")).toBeTruthy();
  expect(screen.getByText("4.0/s")).toBeTruthy();
  expect(page.of("POST", "/api/v1/connections/plant/look")[0]?.body).toEqual({ within: "", seconds: 5 });
});

it("folds a level away", async () => {
  open(<Held told={() => {}} />, { "POST /api/v1/connections/plant/look": look });
  fireEvent.click(screen.getByRole("button", { name: "Look around" }));
  fireEvent.click(await screen.findByRole("button", { name: "Fold pumps" }));
  expect(screen.queryByRole("checkbox", { name: "north" })).toBeNull();
});

it("says why nothing can be seen, and that nothing came", async () => {
  let answer: unknown = new Refusal(502, "nobody listens at 127.0.0.1, port 1. Look at the port.");
  open(<Held told={() => {}} />, { "POST /api/v1/connections/plant/look": () => answer });
  fireEvent.click(screen.getByRole("button", { name: "Look around" }));
  expect((await screen.findByRole("alert")).textContent).toContain("nobody listens");
  answer = { ...look, found: [], messages: 0 };
  fireEvent.click(screen.getByRole("button", { name: "Look again" }));
  expect(await screen.findByText(/Nothing came in 5 s/)).toBeTruthy();
});

it("asks for a connection first", () => {
  open(<Held told={() => {}} connection="" />, {});
  expect((screen.getByRole("button", { name: "Look around" }) as HTMLButtonElement).disabled).toBe(true);
  expect(screen.getByText(/Choose a connection first/)).toBeTruthy();
});

const nodes = (...names: string[]) => names.map((name) => place(`spBv1.0/larkmoor/NDATA/${name}`));
const birth = (name: string) => ({
  ...place(`spBv1.0/larkmoor/NBIRTH/${name}`, [
    { ...place("Flow"), name: "Flow", path: "Flow", last: "12.3" },
  ]),
  last: "Flow = 12.3",
});
const plantLook = {
  ...look,
  found: [
    place("spBv1.0", [
      place("spBv1.0/STATE", [place("spBv1.0/STATE/holtra")]),
      place("spBv1.0/larkmoor", [
        place("spBv1.0/larkmoor/NBIRTH", [birth("ph-01")]),
        place("spBv1.0/larkmoor/NDATA", nodes("ph-01", "ph-02")),
      ]),
    ]),
  ],
};

function Names({ look, told }: { look: Looking; told: (value: unknown) => void }) {
  return (
    <PlacesField label="Names" value={[]} error={undefined} look={look} connection="plant" onChange={told} />
  );
}

it("ticks the names at a level, each once", async () => {
  const told = vi.fn();
  const page = open(<Names look={{ take: "level", within: "spBv1.0/#", level: 3 }} told={told} />, {
    "POST /api/v1/connections/plant/look": plantLook,
  });
  fireEvent.click(screen.getByRole("button", { name: "Look around" }));
  await screen.findByRole("checkbox", { name: "ph-01" });
  expect(screen.getAllByRole("checkbox").length).toBe(2);
  fireEvent.click(screen.getByRole("checkbox", { name: "ph-02" }));
  expect(told).toHaveBeenLastCalledWith(["ph-02"]);
  expect(page.of("POST", "/api/v1/connections/plant/look")[0]?.body).toEqual({
    within: "spBv1.0/#",
    seconds: 5,
  });
});

it("ticks the names of values that stand in payloads, with the last one", async () => {
  const told = vi.fn();
  open(<Names look={{ take: "values", within: "spBv1.0/#" }} told={told} />, {
    "POST /api/v1/connections/plant/look": plantLook,
  });
  fireEvent.click(screen.getByRole("button", { name: "Look around" }));
  fireEvent.click(await screen.findByRole("checkbox", { name: "Flow" }));
  expect(told).toHaveBeenLastCalledWith(["Flow"]);
  expect(screen.getByText("12.3")).toBeTruthy();
});
