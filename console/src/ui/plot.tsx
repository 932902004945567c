import { CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import type { Series } from "../api";
import { withGaps } from "../series";
import { figure, time, unitWord } from "../words";

/** A field over time. Where much longer than usual nothing came, the line stops: a gap is not a straight line. */
export function Plot({ series, silentAfter }: { series: Series; silentAfter: number | null }) {
  const points = withGaps(series.points, silentAfter);
  const unit = series.unit === null ? "" : ` ${unitWord(series.unit)}`;
  const label = `${series.field} over time, ${series.points.length} values`;
  return (
    <div role="img" aria-label={label}>
      <ResponsiveContainer width="100%" height={260}>
        <LineChart
          data={points}
          margin={{ top: 8, right: 12, bottom: 0, left: 4 }}
          accessibilityLayer={false}
        >
          <CartesianGrid stroke="var(--rule)" vertical={false} />
          <XAxis
            dataKey="at"
            type="number"
            domain={["dataMin", "dataMax"]}
            tickFormatter={(at: number) => time(new Date(at).toISOString()).slice(0, -3)}
            stroke="var(--ink-faint)"
            tick={{ fontSize: 11 }}
            minTickGap={40}
          />
          <YAxis
            domain={["auto", "auto"]}
            tickFormatter={figure}
            stroke="var(--ink-faint)"
            tick={{ fontSize: 11 }}
            width={48}
          />
          <Tooltip
            isAnimationActive={false}
            contentStyle={{ background: "var(--sheet)", border: "1px solid var(--rule)", fontSize: 12 }}
            labelFormatter={(at) => time(new Date(Number(at)).toISOString())}
            formatter={(value) => [`${figure(Number(value))}${unit}`, series.field]}
          />
          <Line
            dataKey="value"
            stroke="var(--accent)"
            strokeWidth={1.6}
            dot={points.length < 80 ? { r: 2, fill: "var(--accent)", strokeWidth: 0 } : false}
            connectNulls={false}
            isAnimationActive={false}
          />
        </LineChart>
      </ResponsiveContainer>
    </div>
  );
}
