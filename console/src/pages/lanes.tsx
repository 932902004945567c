import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation } from "wouter";
import { api, type LaneRow, withQuery } from "../api";
import { OnThisNode } from "../parts/on-this-node";
import { Button } from "../ui/button";
import { Sheet } from "../ui/dialog";
import { Field } from "../ui/field";
import { Mark } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Since } from "../ui/time";
import { Traffic } from "../ui/traffic";
import { count, plural } from "../words";

export function LanesPage() {
  const lanes = useQuery({ queryKey: ["lanes"], queryFn: api.lanes, refetchInterval: 3000 });
  const drafts = useQuery({ queryKey: ["drafts"], queryFn: api.drafts, refetchInterval: 5000 });
  if (lanes.isError && !lanes.data) return <Failure error={lanes.error} />;
  if (!lanes.data) return <Loading />;
  const rows = [...lanes.data].sort((a, b) => a.lane.localeCompare(b.lane));
  const fresh = (drafts.data ?? []).filter(
    (draft) => draft.thing === "lanes" && !rows.some((row) => row.lane === draft.name),
  );
  return (
    <Panel title={plural(rows.length, "lane", "lanes")} aside={<NewLane />}>
      {rows.length === 0 && fresh.length === 0 ? (
        <Empty title="No lanes yet">
          A lane picks messages of inlets, gives them the form a destination wants, and carries them to an
          outlet. Make one; it is tried on real messages before it is active.
        </Empty>
      ) : (
        <table className="w-full border-collapse">
          <thead>
            <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
              <th>Lane</th>
              <th>State</th>
              <th>Last hour</th>
              <th className="text-right!">A minute</th>
              <th className="text-right!">Owes</th>
              <th>Oldest waiting</th>
              <th>
                Last error
                <OnThisNode />
              </th>
            </tr>
          </thead>
          <tbody>
            {fresh.map((draft) => (
              <tr key={draft.name + draft.by} className="border-b border-rule [&>td]:px-4 [&>td]:py-2">
                <td>
                  <Link href={`/lanes/${draft.name}`} className="font-semibold text-accent hover:underline">
                    {draft.name}
                  </Link>
                </td>
                <td colSpan={6} className="text-ink-soft">
                  <Mark state="trial" label="draft" /> of {draft.by}, not active
                </td>
              </tr>
            ))}
            {rows.map((row) => (
              <Line
                key={row.lane}
                row={row}
                drafts={(drafts.data ?? [])
                  .filter((one) => one.thing === "lanes" && one.name === row.lane)
                  .map((one) => (one.mine ? "you" : one.by))}
              />
            ))}
          </tbody>
        </table>
      )}
    </Panel>
  );
}

function Line({ row, drafts }: { row: LaneRow; drafts: string[] }) {
  const recent = row.traffic.taken.slice(-10);
  const rate = recent.reduce((a, b) => a + b, 0) / Math.max(1, recent.length);
  return (
    <tr className="border-b border-rule align-top last:border-0 [&>td]:px-4 [&>td]:py-2">
      <td>
        <Link href={`/lanes/${row.lane}`} className="font-semibold text-accent hover:underline">
          {row.lane}
        </Link>
        <div className="text-[12px] text-ink-soft">
          {row.inlets.join(", ")} → {row.outlet}
        </div>
        {drafts.length > 0 && (
          <div className="text-[12px] text-wait">being changed by {drafts.join(", ")}</div>
        )}
      </td>
      <td>
        <Mark
          state={row.trouble}
          label={
            row.trouble === "stopped"
              ? row.outletState
              : row.trouble === "dead"
                ? "dead letters"
                : row.trouble
          }
        />
      </td>
      <td className="w-[196px]">
        <Traffic traffic={row.traffic} />
      </td>
      <td className="text-right">
        {rate === 0 ? <span className="text-ink-faint">0</span> : rate.toFixed(1)}
      </td>
      <td className="text-right">
        {row.owes > 0 ? (
          <Link
            href={withQuery("/messages", { lane: row.lane, state: "waiting" })}
            className="font-semibold text-wait underline underline-offset-2"
          >
            {count(row.owes)}
          </Link>
        ) : (
          <span className="text-ink-faint">0</span>
        )}
      </td>
      <td>{row.oldest ? <Since instant={row.oldest} /> : <span className="text-ink-faint">–</span>}</td>
      <td className="max-w-md text-[13px]">
        {row.lastError ? (
          <>
            <Link href={`/messages/${row.lastError.message}`} className="hover:text-accent hover:underline">
              {row.lastError.reason}
            </Link>{" "}
            <span className="text-ink-soft">
              <Since instant={row.lastError.at} />
            </span>
          </>
        ) : (
          <span className="text-ink-faint">none since the start</span>
        )}
      </td>
    </tr>
  );
}

/** Names a new lane and goes to its workbench. */
export function NewLane({
  query = {},
  label = "New lane",
}: {
  query?: Record<string, string>;
  label?: string;
}) {
  const [, go] = useLocation();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const fits = /^[a-z][a-z0-9-]{0,62}$/.test(name);
  return (
    <>
      <Button look="main" onClick={() => setOpen(true)}>
        {label}
      </Button>
      <Sheet open={open} onClose={() => setOpen(false)} title="New lane">
        <form
          className="space-y-3"
          onSubmit={(event) => {
            event.preventDefault();
            if (fits) go(withQuery(`/lanes/${name}`, query));
          }}
        >
          <Field
            label="Name"
            autoFocus
            value={name}
            placeholder="frost-calls"
            error={
              name === "" || fits
                ? undefined
                : "Lower-case letters, digits and dashes, beginning with a letter."
            }
            hint="It is part of what receivers see as the idempotency key."
            onChange={(event) => setName(event.target.value)}
          />
          <div className="flex justify-end">
            <Button type="submit" look="main" disabled={!fits}>
              To its workbench
            </Button>
          </div>
        </form>
      </Sheet>
    </>
  );
}
