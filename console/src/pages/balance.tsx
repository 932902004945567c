import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { delivery } from "../delivery";
import { Segments } from "../ui/field";
import { Mark } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Time } from "../ui/time";
import { count, plural, size } from "../words";

const spans = [
  ["1", "last hour"],
  ["24", "last day"],
  ["168", "last 7 days"],
] as const;

type Hours = (typeof spans)[number][0];

/** The balance: what was acknowledged against what is there, and what lanes took against what became of it. */
export function BalancePage() {
  const [hours, setHours] = useState<Hours>("1");
  const balance = useQuery({
    queryKey: ["balance", hours],
    queryFn: () => {
      const now = Date.now();
      return delivery.balance(
        new Date(now - Number(hours) * 3_600_000).toISOString(),
        new Date(now).toISOString(),
      );
    },
    refetchInterval: 5000,
  });
  if (balance.isError && !balance.data) return <Failure error={balance.error} />;
  const data = balance.data;
  const remembers = data?.lanes.some((lane) => lane.heldBack + lane.merged + lane.remembered > 0);
  return (
    <div className="space-y-4">
      <Segments label="Window" value={hours} options={spans} onChange={setHours} />
      {data && (
        <>
          <Panel
            title="Intake"
            label="Intake"
            aside={
              data.missing === 0 ? (
                <Mark state="delivered" label="balanced" />
              ) : (
                <Mark state="dead" label={`${count(data.missing)} missing`} />
              )
            }
          >
            <table className="w-full">
              <tbody>
                <Line
                  label="acknowledged (counted where senders are answered)"
                  value={data.intake.acknowledged}
                />
                {data.intake.parts > 0 && (
                  <Line label="parts of arrivals, added to them" value={data.intake.parts} />
                )}
                <Line label="read" value={data.intake.read} href="/messages" />
                <Line
                  label="of these, unrouted"
                  value={data.intake.unrouted}
                  href="/messages?state=unrouted"
                  inner
                />
                <Line
                  label="unreadable, kept raw"
                  value={data.intake.unreadable}
                  href="/messages?state=unreadable"
                />
                <Line
                  label="unclaimed (unknown devices)"
                  value={data.intake.unclaimed}
                  href="/messages?state=unclaimed"
                />
                <Line
                  label="waiting to be read (codec could not run yet)"
                  value={data.intake.deferred}
                  href="/messages?state=deferred"
                />
                <Line label="duplicates" value={data.intake.duplicates} href="/messages?state=duplicate" />
                {data.intake.whole > 0 && (
                  <Line
                    label="taken apart into parts"
                    value={data.intake.whole}
                    href="/messages?state=whole"
                  />
                )}
                <Line label="spooled on a node's disk" value={data.intake.spooled} />
                <Line
                  label="kept, not acknowledged (the sender may not have got the answer)"
                  value={data.intake.unacknowledged}
                />
                <Line label="missing (acknowledged, but not found)" value={data.intake.missing} bad />
              </tbody>
            </table>
          </Panel>
          <Panel title="Lanes" label="Lanes">
            {data.lanes.length === 0 ? (
              <Empty title="No lane took a message in this window." />
            ) : (
              <table className="w-full border-collapse">
                <thead>
                  <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
                    <th>Lane</th>
                    <th className="text-right!">Taken</th>
                    <th className="text-right!">Delivered</th>
                    <th className="text-right!">Waiting</th>
                    <th className="text-right!">In flight</th>
                    {remembers && <th className="text-right!">Held back</th>}
                    {remembers && <th className="text-right!">Merged</th>}
                    {remembers && <th className="text-right!">In memory</th>}
                    <th className="text-right!">Dead</th>
                    <th className="text-right!">Dropped</th>
                    <th className="text-right!">Missing</th>
                  </tr>
                </thead>
                <tbody>
                  {data.lanes.map((lane) => (
                    <tr
                      key={lane.lane}
                      className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1.5 [&>td]:text-right [&>td:first-child]:text-left"
                    >
                      <td className="font-semibold">
                        <Link href={`/lanes/${lane.lane}`} className="hover:underline">
                          {lane.lane}
                        </Link>
                      </td>
                      <td>{count(lane.taken)}</td>
                      <td>{count(lane.delivered)}</td>
                      <td>{count(lane.waiting)}</td>
                      <td>{count(lane.inFlight)}</td>
                      {remembers && <td>{count(lane.heldBack)}</td>}
                      {remembers && <td>{count(lane.merged)}</td>}
                      {remembers && <td>{count(lane.remembered)}</td>}
                      <td className={lane.dead > 0 ? "text-bad" : ""}>{count(lane.dead)}</td>
                      <td>{count(lane.dropped)}</td>
                      <td className={lane.missing !== 0 ? "font-semibold text-bad" : ""}>
                        {count(lane.missing)}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
          </Panel>
          {data.missing !== 0 && <Differences from={data.from} to={data.to} />}
        </>
      )}
      <Storage />
    </div>
  );
}

function Line({
  label,
  value,
  href,
  bad = false,
  inner = false,
}: {
  label: string;
  value: number;
  href?: string;
  bad?: boolean;
  inner?: boolean;
}) {
  const figure = <span className={bad && value > 0 ? "font-semibold text-bad" : ""}>{count(value)}</span>;
  return (
    <tr className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1">
      <td className={inner ? "pl-9! text-ink-soft" : ""}>{label}</td>
      <td className="w-40 text-right">
        {href && value > 0 ? (
          <Link href={href} className="underline decoration-rule-strong underline-offset-4">
            {figure}
          </Link>
        ) : (
          figure
        )}
      </td>
    </tr>
  );
}

const classes: Record<string, string> = {
  message: "messages as received",
  attempt: "attempts, with what was sent and answered",
  outcome: "outcomes of deliveries",
};

/** What the journal takes on the database's disk, and what it will take. */
function Storage() {
  const storage = useQuery({ queryKey: ["storage"], queryFn: delivery.storage, refetchInterval: 30_000 });
  if (!storage.data) return <Loading />;
  return (
    <Panel title="Storage" label="Storage">
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
            <th>Class</th>
            <th className="text-right!">Kept for</th>
            <th className="text-right!">So far</th>
            <th className="text-right!">On disk</th>
            <th className="text-right!">A day</th>
            <th className="text-right!">At most, at this rate</th>
          </tr>
        </thead>
        <tbody>
          {storage.data.kept.map((one) => (
            <tr
              key={one.what}
              className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1 [&>td]:text-right [&>td:first-child]:text-left"
            >
              <td>{classes[one.what] ?? one.what}</td>
              <td>{one.limit === 0 ? "ever" : plural(one.limit, "day", "days")}</td>
              <td>{plural(one.days, "day", "days")}</td>
              <td>{size(one.bytes)}</td>
              <td>{size(one.perDay)}</td>
              <td>{one.forecast === null ? "grows for ever" : size(one.forecast)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="px-4 py-2 text-[12px] text-ink-faint">
        Whole days are dropped; what is owed or dead stays, and so does the balance of days that are gone.
      </p>
    </Panel>
  );
}

function Differences({ from, to }: { from: string; to: string }) {
  const found = useQuery({
    queryKey: ["differences", from, to],
    queryFn: () => delivery.differences(from, to),
  });
  return (
    <Panel title="Messages not accounted for" label="Differences">
      {found.data?.length === 0 && <Empty title="The messages are no longer known." />}
      <table className="w-full border-collapse">
        <tbody>
          {found.data?.map((one) => (
            <tr
              key={`${one.message} ${one.lane}`}
              className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1.5"
            >
              <td>
                <Link
                  href={`/messages/${one.message}`}
                  className="font-mono text-[12.5px] text-accent underline underline-offset-2"
                >
                  {one.message}
                </Link>
              </td>
              <td className="text-ink-soft">
                <Time instant={one.received} />
              </td>
              <td>{one.lane ?? "–"}</td>
              <td>{one.what}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  );
}
