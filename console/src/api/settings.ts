/** Credentials, API keys and storage. */

import { call, withQuery } from "./call";

export type CredentialEntry = {
  name: string;
  form: string;
  changed: string;
  changedBy: string;
  /** When it ends, as far as it says. */
  expires: string | null;
  /** The token that it was exchanged for. */
  token: {
    scope: string | null;
    expires: string | null;
    refreshed: string | null;
    failure: "later" | "blocked" | "revoked" | null;
    reason: string | null;
  } | null;
};

/** What a credential of a form consists of; fields that are never shown are writeOnly. */
export type CredentialForm = {
  form: string;
  about: string;
  schema: {
    required: string[];
    properties: Record<string, { title: string; writeOnly?: boolean; contentMediaType?: string }>;
  };
  canBeMade: boolean;
};

export type ApiKey = { name: string; created: string; createdBy: string; lastUsed: string | null };

/** Something that is kept by day; days 0 as a limit is for ever. */
export type Kept = {
  what: string;
  days: number;
  limit: number;
  bytes: number;
  perDay: number;
  forecast: number | null;
};

const named = (thing: "credentials" | "keys", name: string) => `/api/v1/${thing}/${encodeURIComponent(name)}`;

export const settings = {
  credentials: () => call<CredentialEntry[]>("GET", "/api/v1/credentials"),
  credentialForms: () => call<CredentialForm[]>("GET", "/api/v1/credentials/forms"),
  saveCredential: (name: string, fields: Record<string, string>) =>
    call<{ name: string; notices: string[] }>("PUT", named("credentials", name), fields),
  makeSecret: (name: string, form: string) =>
    call<{ name: string; secret: string; shown: Record<string, string> }>(
      "POST",
      withQuery(named("credentials", name), { form }),
    ),
  rotateSecret: (name: string, overlap: string) =>
    call<{ name: string; secret: string; shown: Record<string, string> }>(
      "POST",
      withQuery(`${named("credentials", name)}/rotate`, { overlap }),
    ),
  grantLink: (name: string) =>
    call<{ address: string; until: string }>("POST", `${named("credentials", name)}/link`, {}),
  removeCredential: (name: string) => call<void>("DELETE", named("credentials", name)),
  keys: () => call<ApiKey[]>("GET", "/api/v1/keys"),
  makeKey: (name: string) => call<{ name: string; key: string }>("POST", named("keys", name)),
  removeKey: (name: string) => call<void>("DELETE", named("keys", name)),
  storage: () => call<{ kept: Kept[] }>("GET", "/api/v1/storage"),
};
