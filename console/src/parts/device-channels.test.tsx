import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Channel, Device } from "../api";
import { open } from "../testing/page";
import { Channels } from "./device-channels";

const device = {
  key: "meter-7",
  model: "two-meters",
  facts: {},
  points: {},
  zone: null,
  installed: null,
  silentAfter: null,
} as unknown as Device;

const sent = {
  message: "01",
  at: "2026-04-12T03:20:00Z",
  places: { ch1: 1500, "list.0.v": 3 },
  channels: [] as Channel[],
  ownChannels: false,
  trouble: null,
};

const answers = {
  "GET /api/v1/devices/channels": sent,
  "POST /api/v1/devices/channels/preview": ({ body }: { body: Channel[] }) =>
    body.map((one) => ({
      name: one.field,
      sent: 1500,
      value: 1500 * (one.factor ?? 1),
      unit: one.unit,
      note: one.factor ? null : "outside of its range; is the factor right?",
    })),
  "POST /api/v1/devices/channels": { changed: 1 },
  "GET /api/v1/setup/parts/models/two-meters": { content: { facts: { maker: "Vale" } }, mark: "m1" },
  "PUT /api/v1/setup/parts/models/two-meters": { revision: 5 },
  "PUT /api/v1/devices/one": {},
};

async function mapChannel() {
  const page = open(<Channels device={device} />, answers);
  fireEvent.click(await screen.findByRole("button", { name: "Map channels" }));
  fireEvent.click(screen.getByRole("button", { name: /ch1/ }));
  return page;
}

const type = (label: string, value: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value } });

it("previews a channel with the last reading, and applies it to the model", async () => {
  const page = await mapChannel();
  expect(await screen.findByText(/is the factor right/)).toBeTruthy();
  type("Field of ch1", "power");
  type("Factor of ch1", "0.001");
  type("Unit of ch1", "kW");
  expect(await screen.findByText(/^1\.5/)).toBeTruthy();

  fireEvent.click(screen.getByRole("button", { name: "Apply" }));

  await waitFor(() => expect(page.of("PUT", "/api/v1/setup/parts/models/two-meters")).toHaveLength(1));
  expect(page.of("PUT", "/api/v1/setup/parts/models/two-meters")[0]?.body).toMatchObject({
    content: {
      facts: { maker: "Vale" },
      channels: [{ from: "ch1", field: "power", factor: 0.001, unit: "kW" }],
    },
    basedOn: "m1",
  });
});

it("applies a mapping to this device alone, with the reference of its point", async () => {
  const page = await mapChannel();
  type("Point of ch1", "clamp-1");
  fireEvent.click(screen.getByRole("button", { name: "this device" }));
  type("Reference of clamp-1", "MTR-7");

  fireEvent.click(screen.getByRole("button", { name: "Apply" }));

  await waitFor(() => expect(page.of("PUT", "/api/v1/devices/one")).toHaveLength(1));
  expect(page.of("POST", "/api/v1/devices/channels")[0]?.body).toMatchObject({
    devices: ["meter-7"],
    channels: [{ from: "ch1", point: "clamp-1", field: "ch1" }],
  });
  expect(page.of("PUT", "/api/v1/devices/one")[0]?.body).toMatchObject({
    points: { "clamp-1": { reference: "MTR-7" } },
  });
});

it("names a field after the last name of a place in a list", async () => {
  await mapChannel();
  fireEvent.click(screen.getByRole("button", { name: /list\.0\.v/ }));
  expect((screen.getByLabelText("Field of list.0.v") as HTMLInputElement).value).toBe("v");
});
