/** Messages and their traces. */

import { call, withQuery } from "./call";

export type LaneState = { lane: string; state: DeliveryState; attempts: number };

export type DeliveryState =
  | "waiting"
  | "delivered"
  | "dead"
  | "dropped"
  | "remembered"
  | "held back"
  | "merged"
  | "split";

export type Message = {
  id: string;
  received: string;
  inlet: string;
  device: string | null;
  eventTime: string | null;
  type: string | null;
  state: "read" | "unreadable" | "unclaimed" | "deferred" | "duplicate" | "whole" | "trial" | "made";
  reason: string | null;
  simulated: boolean;
  sequence: number | null;
  duplicateOf: string | null;
  bytes: number;
  preview: string;
  lanes: LaneState[];
};

export type MessagePage = { messages: Message[]; next: string | null };

export type Attempt = {
  number: number;
  at: string;
  micros: number;
  verdict: string;
  reason: string | null;
  code: string | null;
  nextTry: string | null;
  setupRevision: number;
  outlet: string;
  lane: string;
  point: string | null;
  request: {
    summary: string;
    fields: Record<string, string>;
    batch?: { key: string; messages: number; number: number } | null;
  };
  body: string | null;
  answer: string | null;
};

export type LaneTrace = {
  lane: string;
  point: string | null;
  outlet: string | null;
  picked: boolean;
  pick: string | null;
  values: string | null;
  whyNot: string | null;
  state: DeliveryState | null;
  at: string | null;
  reason: string | null;
  into: string | null;
  attempts: Attempt[];
};

export type Trace = {
  message: Message;
  came: {
    remote: string;
    address: string;
    contentType: string | null;
    fields: Record<string, unknown>;
    text: string | null;
    base64: string | null;
  };
  data: unknown;
  meta: Record<string, unknown>;
  device: Record<string, unknown>;
  setupRevision: number;
  /** What decoded the payload, such as "script of model climate-station". */
  codec: string | null;
  units: Record<string, string>;
  duplicates: { id: string; received: string; gateway: string | null }[];
  lanes: LaneTrace[];
  trials: Attempt[];
  madeOf: string[];
  splitInto: string[];
  /** The messages that an arrival was taken apart into. */
  parts: Message[];
  /** The arrival that a message is a part of. */
  whole: string | null;
  alarms: { number: number; lookout: string; state: string; text: string; cause: string | null }[];
};

/** A field of a message as it was read; the unit is a UCUM code. */
export type FieldValue = { name: string; value: unknown; unit: string | null };

export const messages = {
  fieldsOf: (ids: string[]) =>
    call<{ id: string; fields: FieldValue[] }[]>("POST", "/api/v1/messages/fields", { ids }),
  messages: (parameters: Record<string, string | number | null | undefined>) =>
    call<MessagePage>("GET", withQuery("/api/v1/messages", parameters)),
  trace: (id: string) => call<Trace>("GET", `/api/v1/messages/${encodeURIComponent(id)}`),
};
