/** How devices stand at outlets whose destinations must know them, and what was made there. */

import type { Job } from "../delivery";
import { call } from "./call";
import type { Fields } from "./setup";

export type Introduction = {
  device: string;
  state: "waiting" | "introducing" | "known" | "refused" | "removing";
  step: string | null;
  called: string | null;
  id: string | null;
  existed: boolean;
  ownCredential: boolean;
  since: string;
  next: string | null;
  why: string | null;
  reason: string | null;
  revision: number;
  by: string;
};

export type Introductions = {
  recipe: boolean;
  counts: Record<string, number>;
  standsStill: string | null;
  paused: { by: string; since: string } | null;
  made: number;
  introductions: Introduction[];
  next: string | null;
};

/** Which devices; all if it says nothing. */
export type DeviceChoice = { where?: string; keys?: string[]; pattern?: string };

export type DryRun = {
  chosen: number;
  lookedAt: number;
  counts: Record<string, number>;
  findings: { device: string; name: string | null; fate: string; reason: string | null }[];
  monthly: number | null;
  currency: string | null;
};

export type PlannedStep = {
  step: string;
  right: string | null;
  request: string | null;
  fields: Record<string, string>;
  body: string | null;
  failure: string | null;
  isNext: boolean;
};

export type Plan = { device: string; steps: PlannedStep[]; now: Introduction | null };

export type MadeStep = {
  step: string | null;
  request: string | null;
  body: string | null;
  outcome: string;
  reason: string | null;
  answer: string | null;
  now: Introduction | null;
};

export type MadeThere = {
  number: number;
  device: string;
  what: string;
  name: string | null;
  id: string | null;
  at: string;
  by: string;
  revision: number;
  differs: string[] | null;
  compared: string | null;
};

const at = (outlet: string, what: string) => `/api/v1/outlets/${encodeURIComponent(outlet)}/${what}`;

export const introductions = {
  introductions: (outlet: string, state: string, after?: string) =>
    call<Introductions>(
      "GET",
      `${at(outlet, "introductions")}?${new URLSearchParams({ ...(state && { state }), ...(after && { after }) })}`,
    ),
  /** @param fields of an outlet that is not applied yet; the active one if not given */
  plan: (outlet: string, device: string, fields?: Fields) =>
    call<Plan>("POST", at(outlet, "introductions/plan"), { device, fields }),
  makeStep: (outlet: string, device: string) =>
    call<MadeStep>("POST", at(outlet, "introductions/step"), { device }),
  dryRun: (outlet: string, choice: DeviceChoice, fields?: Fields) =>
    call<DryRun>("POST", at(outlet, "introductions/dry-run"), { ...choice, fields }),
  introduce: (outlet: string, choice: DeviceChoice) => call<Job>("POST", at(outlet, "introductions"), choice),
  pauseIntroductions: (outlet: string) => call<void>("POST", at(outlet, "introductions/pause"), {}),
  resumeIntroductions: (outlet: string) => call<void>("POST", at(outlet, "introductions/resume"), {}),
  made: (outlet: string, differing: boolean, after?: string) =>
    call<{ made: MadeThere[]; next: string | null }>(
      "GET",
      `${at(outlet, "made")}?${new URLSearchParams({ ...(differing && { differing: "true" }), ...(after && { after }) })}`,
    ),
  compareMade: (outlet: string) => call<Job>("POST", at(outlet, "made/compare"), {}),
  removeMade: (outlet: string, choice: DeviceChoice) => call<Job>("POST", at(outlet, "made/remove"), choice),
  job: (id: string) => call<Job>("GET", `/api/v1/jobs/${id}`),
};
