import { figure, time } from "../words";

/** What all plots over time have in common, to be spread into the parts of a chart. */

const words = (at: number) => time(new Date(at).toISOString());

export const chart = {
  margin: { top: 8, right: 12, bottom: 0, left: 4 },
  accessibilityLayer: false,
} as const;

const axis = { stroke: "var(--ink-faint)", tick: { fontSize: 11 } } as const;

export const timeAxis = {
  ...axis,
  dataKey: "at",
  type: "number",
  tickFormatter: (at: number) => words(at).slice(0, -3),
  minTickGap: 40,
} as const;

export const valueAxis = { ...axis, tickFormatter: figure, width: 48 } as const;

export const tip = {
  isAnimationActive: false,
  contentStyle: { background: "var(--sheet)", border: "1px solid var(--rule)", fontSize: 12 },
  labelFormatter: (at: unknown) => words(Number(at)),
} as const;
