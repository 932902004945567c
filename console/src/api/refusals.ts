/** Calls that inlets refused. */

import { call, withQuery } from "./call";

export type Refusal = {
  at: string;
  node: string;
  remote: string;
  address: string;
  code: string;
  slip: string;
  text: string;
  fields: Record<string, string>;
};

export type Refusals = {
  refusals: Refusal[];
  slips: { slip: string; count: number; last: string }[];
};

export const refusals = {
  /** Those of an inlet; without a name, of addresses that are no inlet's. */
  refusals: (inlet?: string) => call<Refusals>("GET", withQuery("/api/v1/refusals", { inlet })),
};
