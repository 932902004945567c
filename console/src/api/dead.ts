/** Dead letters. */

import { call, withQuery } from "./call";

export type DeadLetter = {
  delivery: string;
  message: string;
  lane: string;
  outlet: string;
  device: string | null;
  attempts: number;
  died: string;
  cause: string;
  reason: string;
  simulated: boolean | null;
};

export type DeadGroup = {
  lane: string;
  outlet: string;
  cause: string;
  count: number;
  first: string;
  last: string;
};

export type Dead = { total: number; groups: DeadGroup[]; letters: DeadLetter[]; next: string | null };

export type DeadChoice = {
  deliveries?: string[];
  lane?: string;
  cause?: string;
  outlet?: string;
  all?: boolean;
};

export const dead = {
  dead: (lane: string, cause: string, after?: string) =>
    call<Dead>("GET", withQuery("/api/v1/dead", { lane, cause, after, limit: 200 })),
};
