/** The connections that inlets and outlets share, and what comes over them. */

import { call } from "./call";
import type { ConnectionStatus } from "./overview";

export type SharedConnection = {
  name: string;
  kind: string;
  address: string;
  credential: string | null;
  inlets: string[];
  outlets: string[];
  status: ConnectionStatus | null;
};

/** Something that a look around found, such as a level of topics. */
export type Sighting = {
  name: string;
  path: string;
  messages: number;
  places: number;
  last: string | null;
  lastAt: string | null;
  retained: boolean;
  below: Sighting[];
  notShown: number;
};

export type Look = {
  within: string;
  seconds: number;
  messages: number;
  found: Sighting[];
  notShown: number;
  beyond: number;
};

export const connections = {
  connections: () => call<SharedConnection[]>("GET", "/api/v1/connections"),
  look: (name: string, within: string, seconds: number) =>
    call<Look>("POST", `/api/v1/connections/${encodeURIComponent(name)}/look`, { within, seconds }),
};
