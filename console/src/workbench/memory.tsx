import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { CartesianGrid, Legend, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import { call, type Fields } from "../api";
import type { Value } from "../lookouts";
import { useStill } from "../ui/debounced";
import { Segments } from "../ui/field";
import { chart, timeAxis, tip, valueAxis } from "../ui/over-time";
import { Empty, Failure, Panel } from "../ui/panel";
import { Time } from "../ui/time";
import { figure, plural } from "../words";

type Remembered = {
  problems: { what: string }[];
  rehearsed: {
    from: string;
    to: string;
    taken: number;
    sent: number;
    open: number;
    late: number;
    cut: boolean;
    keys: { key: string; taken: number; sent: number }[];
    fields: string[];
    shown: string | null;
    field: string | null;
    becomes: string | null;
    before: Value[];
    after: Value[];
    made: { key: string; at: string; data: Record<string, unknown>; note: string | null }[];
  } | null;
};

const windows = [
  ["1", "last hour"],
  ["24", "last day"],
  ["168", "last 7 days"],
] as const;

type Window = (typeof windows)[number][0];

/** What a lane's memory makes of what really came: a value before and after, and the messages that would go on. */
export function MemoryPanel({ name, lane }: { name: string; lane: Fields }) {
  const [window, setWindow] = useState<Window>("24");
  const [key, setKey] = useState<string>();
  const [field, setField] = useState<string>();
  const still = useStill(JSON.stringify(lane), 400);
  const memory = useQuery({
    queryKey: ["workbench", "memory", name, still, window, key, field],
    queryFn: () =>
      call<Remembered>("POST", `/api/v1/lanes/${encodeURIComponent(name)}/memory`, {
        lane: JSON.parse(still),
        from: new Date(Date.now() - Number(window) * 3_600_000).toISOString(),
        key,
        field,
      }),
    placeholderData: (before) => before,
    retry: false,
    staleTime: 5000,
  });
  const found = memory.data?.rehearsed;
  const select = "h-7 rounded border border-rule bg-sheet px-1.5 text-[13px]";
  return (
    <Panel
      label="Result of combining"
      title="Result of combining messages"
      aside={
        <>
          {found && (
            <>
              <select
                aria-label="of"
                className={select}
                value={found.shown ?? ""}
                onChange={(event) => setKey(event.target.value)}
              >
                {found.keys.map((one) => (
                  <option key={one.key} value={one.key}>
                    {one.key || "(no key)"}: {one.taken} to {one.sent}
                  </option>
                ))}
              </select>
              <select
                aria-label="field"
                className={select}
                value={found.field ?? ""}
                onChange={(event) => setField(event.target.value)}
              >
                {found.fields.map((one) => (
                  <option key={one}>{one}</option>
                ))}
              </select>
            </>
          )}
          <Segments label="over" value={window} options={windows} onChange={setWindow} />
        </>
      }
    >
      {memory.error && <Failure error={memory.error} />}
      {memory.data?.problems.map((one) => (
        <p key={one.what} className="px-4 py-2 text-[13px] whitespace-pre-wrap text-bad">
          {one.what}
        </p>
      ))}
      {found && found.taken === 0 && (
        <Empty title="The lane takes no message of this time span.">
          Choose a longer time, or look at its condition.
        </Empty>
      )}
      {found && found.taken > 0 && (
        <div className="space-y-3 px-4 py-3">
          <p className="font-medium" aria-live="polite">
            {plural(found.taken, "message", "messages")} taken, {found.sent} would go on
            {found.open > 0 && `, ${found.open} are in its memory still`}
            {found.late > 0 && `, ${found.late} came late`}.
            {found.cut && (
              <span className="font-normal text-ink-soft"> Of the latest 20,000 of each inlet.</span>
            )}
          </p>
          <BeforeAndAfter found={found} />
          <Going made={found.made} />
        </div>
      )}
    </Panel>
  );
}

function BeforeAndAfter({ found }: { found: NonNullable<Remembered["rehearsed"]> }) {
  const points = [
    ...found.before.map((one) => ({ at: Date.parse(one.at), before: one.value })),
    ...found.after.map((one) => ({ at: Date.parse(one.at), after: one.value })),
  ].sort((a, b) => a.at - b.at);
  if (points.length === 0) return null;
  const after = found.becomes === found.field ? "after" : `after, as ${found.becomes}`;
  return (
    <div
      role="img"
      aria-label={`${found.field} of ${found.shown}: ${found.before.length} values before, ${found.after.length} after`}
    >
      <ResponsiveContainer width="100%" height={220}>
        <LineChart data={points} {...chart}>
          <CartesianGrid stroke="var(--rule)" vertical={false} />
          <XAxis {...timeAxis} domain={["dataMin", "dataMax"]} />
          <YAxis {...valueAxis} domain={["auto", "auto"]} />
          <Tooltip {...tip} formatter={(value, name) => [figure(Number(value)), name]} />
          <Legend verticalAlign="top" align="right" iconType="plainline" wrapperStyle={{ fontSize: 12 }} />
          <Line
            name="before"
            dataKey="before"
            stroke="var(--ink-faint)"
            strokeWidth={1.2}
            strokeDasharray="3 3"
            dot={{ r: 1.5, fill: "var(--ink-faint)", strokeWidth: 0 }}
            connectNulls
            isAnimationActive={false}
          />
          <Line
            name={after}
            dataKey="after"
            stroke="var(--accent)"
            strokeWidth={1.8}
            dot={{ r: 3, fill: "var(--accent)", strokeWidth: 0 }}
            connectNulls
            isAnimationActive={false}
          />
        </LineChart>
      </ResponsiveContainer>
    </div>
  );
}

function Going({ made }: { made: NonNullable<Remembered["rehearsed"]>["made"] }) {
  if (made.length === 0)
    return <p className="text-[13px] text-ink-soft">Nothing of this one would have gone on yet.</p>;
  return (
    <table className="w-full border-collapse text-[13px]">
      <thead>
        <tr className="border-b border-rule [&>th]:py-1 [&>th]:pr-4">
          <th>Goes on</th>
          <th>Data</th>
          <th>Note</th>
        </tr>
      </thead>
      <tbody>
        {made.slice(0, 12).map((one) => (
          <tr
            key={`${one.at} ${one.note} ${JSON.stringify(one.data)}`}
            className="border-b border-rule align-top last:border-0 [&>td]:py-1 [&>td]:pr-4"
          >
            <td className="whitespace-nowrap">
              <Time instant={one.at} />
            </td>
            <td className="font-mono text-[12px] break-all">{JSON.stringify(one.data)}</td>
            <td className="text-ink-soft">{one.note}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
