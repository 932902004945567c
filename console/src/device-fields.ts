import type { Channel, Device } from "./api";

/** Values in the order in which the model has its fields. */
export function inOrder(device: Device, fields: string[]) {
  const place = (name: string) => (fields.includes(name) ? fields.indexOf(name) : fields.length);
  return Object.entries(device.values ?? {}).sort(([a], [b]) => place(a) - place(b) || a.localeCompare(b));
}

/** What its field is called in the data; a point's dashes would be taken for minus signs. */
export const fieldOf = (channel: Channel) =>
  channel.point ? `${channel.point.replaceAll("-", "_")}.${channel.field}` : channel.field;
