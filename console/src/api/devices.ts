/** Devices, what is known and what was heard of them. */

import { call, withQuery } from "./call";
import type { Rereading } from "./models";

export type DeviceState = "unheard" | "live" | "silent" | "barred";

export type Facts = Record<string, string | number | boolean>;

/** What people know of a device. */
export type Knowledge = {
  model: string | null;
  facts: Facts;
  points: Record<string, { reference: string | null; facts: Facts }>;
  zone: string | null;
  installed: string | null;
  silentAfter: string | null;
};

/** A field that is made of what a device sends. */
export type Channel = {
  from: string;
  field: string;
  point: string | null;
  factor: number | null;
  unit: string | null;
  min: number | null;
  max: number | null;
  label: string | null;
};

/** What a device really sends, as of its last reading, by place. */
export type SentByDevice = {
  message: string | null;
  at: string | null;
  places: Record<string, string | number | boolean>;
  channels: Channel[];
  ownChannels: boolean;
  trouble: string | null;
};

/** What a channel makes of the last message. */
export type Made = {
  name: string;
  sent: unknown;
  value: string | number | boolean | null;
  unit: string | null;
  note: string | null;
};

export type Device = Knowledge & {
  key: string;
  /** Of its own, in place of its model's. */
  channels: Channel[];
  revision: number;
  simulated: boolean;
  state: DeviceState;
  firstHeard: string | null;
  lastHeard: string | null;
  messages: number;
  missing: number;
  restarts: number;
  values: Record<string, { value: string | number | boolean; at: string }> | null;
  shows: Record<string, string | number>;
  gateway: Record<string, string | number>;
  silentAfterSeconds: number | null;
};

/** Devices in the order of their keys; `next` is null on the last page. */
export type DevicePage = { devices: Device[]; total: number; next: string | null; models: string[] };

export type Series = {
  field: string;
  unit: string | null;
  points: { at: string; value: number; message: string }[];
  more: boolean;
};

export type Gap = {
  inlet: string;
  at: string;
  before: number;
  after: number;
  missing: number;
  message: string;
};

export type Position = {
  geometry: { coordinates: [number, number] };
  properties: { type: "device" | "gateway"; name: string; gateway?: string };
};

export type TableResult = {
  changed: number;
  entered: number;
  misfits: { line: number; column: string; what: string }[];
};

export const devices = {
  devices: (wanted: { search: string; state: string; model: string }, after = "") =>
    call<DevicePage>("GET", withQuery("/api/v1/devices", { ...wanted, after })),
  device: (key: string) => call<Device>("GET", withQuery("/api/v1/devices/one", { key })),
  know: (key: string, knowledge: Knowledge) =>
    call<Device>("PUT", withQuery("/api/v1/devices/one", { key }), knowledge),
  channels: (key: string) => call<SentByDevice>("GET", withQuery("/api/v1/devices/channels", { key })),
  previewChannels: (key: string, channels: Channel[]) =>
    call<Made[]>("POST", withQuery("/api/v1/devices/channels/preview", { key }), channels),
  wire: (devices: string[], channels: Channel[]) =>
    call<{ changed: number }>("POST", "/api/v1/devices/channels", { devices, channels }),
  forget: (key: string) => call<void>("DELETE", withQuery("/api/v1/devices/one", { key })),
  bar: (key: string, barred: boolean) =>
    call<Device>("POST", withQuery("/api/v1/devices/bar", { key, barred: String(barred) }), {}),
  claim: (key: string, knowledge: Knowledge) =>
    call<Rereading>("POST", withQuery("/api/v1/devices/claim", { key }), knowledge),
  revisions: (key: string) =>
    call<{ revision: number; knowledge: Knowledge; until: string; by: string }[]>(
      "GET",
      withQuery("/api/v1/devices/revisions", { key }),
    ),
  series: (key: string, field: string, from: string) =>
    call<Series>("GET", withQuery("/api/v1/devices/series", { key, field, from })),
  gaps: (key: string, from: string) => call<Gap[]>("GET", withQuery("/api/v1/devices/gaps", { key, from })),
  positions: () => call<{ features: Position[] }>("GET", "/api/v1/devices/positions"),
  takeTable: (csv: string, dry: boolean) =>
    call<TableResult>("POST", withQuery("/api/v1/devices/table", { dry: String(dry) }), csv, "text/csv"),
  deviceLanes: (key: string) =>
    call<{ lane: string; serves: boolean; whyNot: string | null; handPicked: boolean; state: string }[]>(
      "GET",
      withQuery("/api/v1/devices/lanes", { key }),
    ),
};
