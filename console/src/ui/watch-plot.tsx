import {
  CartesianGrid,
  Line,
  LineChart,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import type { Value } from "../lookouts";
import { evenTicks, withGaps } from "../series";
import { figure } from "../words";
import { chart, timeAxis, tip, valueAxis } from "./over-time";

export type Span = { from: string; to: string | null };

/** A value over time, the levels it is held against, and when an alarm was raised. */
export function WatchPlot({
  label,
  values,
  on,
  off,
  spans,
  from,
  to,
}: {
  label: string;
  values: Value[];
  on: number | null;
  off: number | null;
  spans: Span[];
  from: string;
  to: string;
}) {
  const points = withGaps(values, null);
  const end = Date.parse(to);
  const starts = [...points.map((one) => one.at), ...spans.map((one) => Date.parse(one.from))];
  const first = starts.length === 0 ? 0 : Math.min(...starts);
  const begin = Math.max(Date.parse(from), first - (end - first) * 0.03);
  const all = [
    ...values.map((one) => one.value),
    ...(on === null ? [] : [on]),
    ...(off === null ? [] : [off]),
  ];
  const ticks = evenTicks(Math.min(...all), Math.max(...all));
  const level = (y: number, words: string, dash: string) => (
    <ReferenceLine
      y={y}
      stroke="var(--ink-soft)"
      strokeDasharray={dash}
      label={{ value: words, position: "insideTopLeft", fontSize: 11, fill: "var(--ink-soft)" }}
    />
  );
  return (
    <div role="img" aria-label={`${label} over time, ${values.length} values, ${spans.length} alarms`}>
      <ResponsiveContainer width="100%" height={240}>
        <LineChart data={points} {...chart}>
          <CartesianGrid stroke="var(--rule)" vertical={false} />
          {spans.map((span) => (
            <ReferenceArea
              key={span.from}
              x1={Math.max(begin, Date.parse(span.from))}
              x2={span.to === null ? end : Math.min(end, Date.parse(span.to))}
              fill="var(--bad)"
              fillOpacity={0.14}
              stroke="var(--bad)"
              strokeOpacity={0.5}
            />
          ))}
          <XAxis {...timeAxis} domain={[begin, end]} allowDataOverflow />
          <YAxis {...valueAxis} domain={[ticks[0] as number, ticks.at(-1) as number]} ticks={ticks} />
          {on !== null && level(on, off === null || off === on ? "raised and cleared" : "raised", "0")}
          {off !== null && off !== on && level(off, "cleared", "4 4")}
          <Tooltip {...tip} formatter={(value) => [figure(Number(value)), label]} />
          <Line
            dataKey="value"
            stroke="var(--accent)"
            strokeWidth={1.6}
            dot={points.length < 80 ? { r: 2, fill: "var(--accent)", strokeWidth: 0 } : false}
            isAnimationActive={false}
          />
        </LineChart>
      </ResponsiveContainer>
    </div>
  );
}
