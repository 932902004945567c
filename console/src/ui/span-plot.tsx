import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import {
  Bar,
  BarChart,
  CartesianGrid,
  ReferenceArea,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import { type About, incidents, span } from "../incidents";
import { count, figure, time } from "../words";

const HOUR = 3_600_000;

/** A history as bars, over which a span is drawn with the mouse; fields beside it do the same for the keyboard. */
export function SpanPlot({
  about,
  hours,
  since,
  until,
  onSpan,
}: {
  about: About;
  hours: number;
  since: number | null;
  until: number | null;
  onSpan: (since: number, until: number) => void;
}) {
  const [from, setFrom] = useState<number | null>(null);
  const [to, setTo] = useState<number | null>(null);
  const history = useQuery({
    queryKey: ["history", about, hours],
    queryFn: async () => {
      const end = Math.ceil(Date.now() / 60_000) * 60_000;
      const begin = end - hours * HOUR;
      const found = await incidents.history(
        about,
        new Date(begin).toISOString(),
        new Date(end).toISOString(),
      );
      return { ...found, begin, end };
    },
    refetchInterval: 10_000,
  });
  if (!history.data) return <div className="h-[150px]" />;
  const { eachMillis, begin, end } = history.data;
  const known = new Map(history.data.stretches.map((one) => [Date.parse(one.at), one]));
  const bars = Array.from({ length: Math.ceil((end - begin) / eachMillis) }, (_, at) => {
    const start = begin + at * eachMillis;
    const one = known.get(start);
    return { at: start, well: one?.well ?? 0, ill: one?.ill ?? 0 };
  });
  const index = (at: number) => Math.min(bars.length - 1, Math.max(0, Math.floor((at - begin) / eachMillis)));
  const drawn =
    from !== null && to !== null
      ? span(from, to, 0)
      : since !== null && until !== null && until > begin
        ? { since: bars[index(since)]?.at ?? begin, until: bars[index(until - 1)]?.at ?? end }
        : null;
  const finish = () => {
    if (from !== null && to !== null) {
      const done = span(from, to, eachMillis);
      onSpan(done.since, done.until);
    }
    setFrom(null);
    setTo(null);
  };
  const label = "outlet" in about ? "attempts" : "messages";
  const ill = bars.reduce((sum, one) => sum + one.ill, 0);
  return (
    <figure>
      <div
        role="img"
        aria-label={`${label} over time, ${count(ill)} did not go well`}
        className="cursor-crosshair select-none"
      >
        <ResponsiveContainer width="100%" height={150}>
          <BarChart
            data={bars}
            barCategoryGap={1}
            margin={{ top: 6, right: 8, bottom: 0, left: 0 }}
            accessibilityLayer={false}
            onMouseDown={(at) => {
              if (at.activeLabel !== undefined) {
                setFrom(Number(at.activeLabel));
                setTo(Number(at.activeLabel));
              }
            }}
            onMouseMove={(at) => {
              if (from !== null && at.activeLabel !== undefined) setTo(Number(at.activeLabel));
            }}
            onMouseUp={finish}
            onMouseLeave={finish}
          >
            <CartesianGrid stroke="var(--rule)" vertical={false} />
            <XAxis
              dataKey="at"
              tickFormatter={(at: number) => tick(at, hours)}
              stroke="var(--ink-faint)"
              tick={{ fontSize: 11 }}
              minTickGap={50}
            />
            <YAxis
              tickFormatter={figure}
              allowDecimals={false}
              stroke="var(--ink-faint)"
              tick={{ fontSize: 11 }}
              width={44}
            />
            <Tooltip
              isAnimationActive={false}
              cursor={{ fill: "var(--inset)" }}
              contentStyle={{ background: "var(--sheet)", border: "1px solid var(--rule)", fontSize: 12 }}
              labelFormatter={(at) => time(new Date(Number(at)).toISOString())}
            />
            {drawn && (
              <ReferenceArea
                x1={drawn.since}
                x2={drawn.until}
                fill="var(--accent)"
                fillOpacity={0.14}
                stroke="var(--accent)"
              />
            )}
            <Bar
              dataKey="well"
              name="went well"
              stackId="one"
              fill="var(--accent)"
              isAnimationActive={false}
            />
            <Bar dataKey="ill" name="did not" stackId="one" fill="var(--bad)" isAnimationActive={false} />
          </BarChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="text-[12px] text-ink-faint">
        {"outlet" in about
          ? "Its deliveries that arrived, and attempts that failed."
          : "Its messages that lanes took, and those that are unread, unrouted or dead."}{" "}
        Draw over the trouble to mark it.
      </figcaption>
    </figure>
  );
}

function tick(at: number, hours: number): string {
  const date = new Date(at);
  const day = `${date.getDate()}.${date.getMonth() + 1}. `;
  const clock = `${String(date.getHours()).padStart(2, "0")}:${String(date.getMinutes()).padStart(2, "0")}`;
  return hours > 24 ? day + clock : clock;
}
