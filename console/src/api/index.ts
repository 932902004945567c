/** What the service's HTTP API gives and takes. The OpenAPI document at /api/v1/openapi.json tells more. */

import { call } from "./call";
import { connections } from "./connections";
import { dead } from "./dead";
import { devices } from "./devices";
import { introductions } from "./introductions";
import { messages } from "./messages";
import { models } from "./models";
import { overview } from "./overview";
import { refusals } from "./refusals";
import { settings } from "./settings";
import { setup } from "./setup";
import { workbench } from "./workbench";

export * from "./call";
export type * from "./connections";
export type * from "./dead";
export type * from "./devices";
export type * from "./introductions";
export type * from "./messages";
export type * from "./models";
export type * from "./overview";
export type * from "./refusals";
export type * from "./settings";
export type * from "./setup";
export type * from "./workbench";

export const api = {
  session: () => call<{ name: string | null }>("GET", "/api/v1/session"),
  // The token against forged requests belongs to a session; asking for the session brings one that fits it.
  signIn: async (name: string, password: string) => {
    await call("GET", "/api/v1/session");
    return call<{ name: string }>("POST", "/api/v1/session", { name, password });
  },
  signOut: () => call<void>("DELETE", "/api/v1/session"),
  ...messages,
  ...overview,
  ...dead,
  ...setup,
  ...settings,
  ...workbench,
  ...devices,
  ...models,
  ...refusals,
  ...connections,
  ...introductions,
};
