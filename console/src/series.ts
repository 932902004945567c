export type PlotPoint = { at: number; value: number | null };

/**
 * Points to draw, with a hole wherever the pause between two is longer than the device is ever quiet: than what it is
 * called silent after, or else three times the pause in the middle of all.
 */
export function withGaps(
  points: { at: string; value: number }[],
  silentAfterSeconds: number | null,
): PlotPoint[] {
  const drawn = points.map((point) => ({ at: new Date(point.at).getTime(), value: point.value }));
  const pauses = drawn.slice(1).map((point, i) => point.at - (drawn[i]?.at ?? point.at));
  const usual = [...pauses].sort((a, b) => a - b)[Math.floor(pauses.length / 2)] ?? 0;
  const longest = silentAfterSeconds === null ? usual * 3 : Math.max(silentAfterSeconds * 1000, usual * 2);
  const result: PlotPoint[] = [];
  drawn.forEach((point, i) => {
    const before = drawn[i - 1];
    if (before && longest > 0 && point.at - before.at > longest) {
      result.push({ at: before.at + 1, value: null });
    }
    result.push(point);
  });
  return result;
}

/** Values for an axis that holds these two: even steps of 1, 2 or 5 times a power of ten, some five of them. */
export function evenTicks(low: number, high: number): number[] {
  const rough = (high - low || Math.abs(high) || 1) / 4;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((one) => one * power).find((one) => one >= rough) ?? power;
  const from = Math.floor(low / step);
  const to = Math.ceil(high / step);
  const digits = Math.max(0, -Math.floor(Math.log10(step)));
  return Array.from({ length: Math.max(1, to - from) + 1 }, (_, at) =>
    Number(((from + at) * step).toFixed(digits)),
  );
}
