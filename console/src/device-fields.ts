import type { Device } from "./api";

/** Values in the order in which the model has its fields. */
export function inOrder(device: Device, fields: string[]) {
  const place = (name: string) => (fields.includes(name) ? fields.indexOf(name) : fields.length);
  return Object.entries(device.values ?? {}).sort(([a], [b]) => place(a) - place(b) || a.localeCompare(b));
}
