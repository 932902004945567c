import { api } from "./api";

export type Captured = { id: string; device: string; bytes: string; port: number | null };

/** Payloads of uplinks that came lately, one a device, as hexadecimal. */
export async function captured(model: string | undefined): Promise<Captured[]> {
  const { devices } = await api.devices({ search: "", state: "", model: model ?? "" });
  const keys = new Set(devices.map((device) => device.key));
  const { messages } = await api.messages({ limit: 300 });
  const found = new Map<string, Captured>();
  for (const message of messages) {
    if (!message.device || !keys.has(message.device) || found.has(message.device)) continue;
    const trace = await api.trace(message.id);
    const uplink = payload(trace.came.text);
    if (uplink) found.set(message.device, { id: message.id, device: message.device, ...uplink });
    if (found.size >= 6) break;
  }
  return [...found.values()];
}

/** The payload in a JSON body: the first field whose name says so, in base64 or hexadecimal. */
export function payload(body: string | null): { bytes: string; port: number | null } | null {
  if (body === null) return null;
  let content: unknown;
  try {
    content = JSON.parse(body);
  } catch {
    return null;
  }
  const text = search(content, /^(payload|data|bytes|frm_?payload|raw)$/i, "string");
  if (typeof text !== "string" || text === "") return null;
  const port = search(content, /^(f?_?port)$/i, "number");
  const bytes = hexadecimal(text);
  return bytes === null ? null : { bytes, port: typeof port === "number" ? port : null };
}

function search(content: unknown, name: RegExp, type: string): unknown {
  if (typeof content !== "object" || content === null) return undefined;
  for (const [key, value] of Object.entries(content)) {
    if (name.test(key) && typeof value === type) return value;
  }
  for (const value of Object.values(content)) {
    const found = search(value, name, type);
    if (found !== undefined) return found;
  }
  return undefined;
}

function hexadecimal(text: string): string | null {
  if (/^([0-9a-f]{2})+$/i.test(text)) return text.toLowerCase();
  try {
    return [...atob(text)].map((char) => char.charCodeAt(0).toString(16).padStart(2, "0")).join("");
  } catch {
    return null;
  }
}

/** The line that a script's error names. */
export function lineOf(error: string): number | null {
  const line = error.match(/^line (\d+)/)?.[1];
  return line === undefined ? null : Number(line);
}
