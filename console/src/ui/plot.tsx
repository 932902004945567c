import { CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import type { Series } from "../api";
import { withGaps } from "../series";
import { figure, unitWord } from "../words";
import { chart, timeAxis, tip, valueAxis } from "./over-time";

/** A field over time. Where much longer than usual nothing came, the line stops: a gap is not a straight line. */
export function Plot({ series, silentAfter }: { series: Series; silentAfter: number | null }) {
  const points = withGaps(series.points, silentAfter);
  const unit = series.unit === null ? "" : ` ${unitWord(series.unit)}`;
  const label = `${series.field} over time, ${series.points.length} values`;
  return (
    <div role="img" aria-label={label}>
      <ResponsiveContainer width="100%" height={260}>
        <LineChart data={points} {...chart}>
          <CartesianGrid stroke="var(--rule)" vertical={false} />
          <XAxis {...timeAxis} domain={["dataMin", "dataMax"]} />
          <YAxis {...valueAxis} domain={["auto", "auto"]} />
          <Tooltip {...tip} formatter={(value) => [`${figure(Number(value))}${unit}`, series.field]} />
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
