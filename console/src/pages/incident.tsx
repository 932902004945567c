import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation } from "wouter";
import { type Act, type Acts, type Findings, type Incident, incidents, neverCame, total } from "../incidents";
import { Button } from "../ui/button";
import { Confirm } from "../ui/confirm";
import { Mark } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Time } from "../ui/time";
import { count, plural } from "../words";
import { incidentMark } from "./incidents";

/** One incident: what was found in its span, what can be done, what was done and how it stands. */
export function IncidentPage({ number }: { number: string }) {
  const one = useQuery({
    queryKey: ["incidents", number],
    queryFn: () => incidents.find(number),
    refetchInterval: 1000,
  });
  if (one.isError && !one.data) return <Failure error={one.error} />;
  if (!one.data) return <Loading />;
  const incident = one.data;
  return (
    <div className="space-y-4">
      <Head incident={incident} />
      <Found incident={incident} />
      {incident.state === "marked" && <Proposals key={incident.marked} incident={incident} />}
      <Missing findings={incident.findings} />
    </div>
  );
}

function Head({ incident }: { incident: Incident }) {
  const client = useQueryClient();
  const [, go] = useLocation();
  const refresh = () => client.invalidateQueries({ queryKey: ["incidents"] });
  const look = useMutation({ mutationFn: () => incidents.look(incident.number), onSuccess: refresh });
  const forget = useMutation({
    mutationFn: () => incidents.forget(incident.number),
    onSuccess: () => {
      refresh();
      go("/incidents");
    },
  });
  const runs = incident.state === "looking" || incident.state === "mending";
  const { progress } = incident;
  return (
    <Panel
      title={
        <>
          <Link href="/incidents" className="text-ink-soft hover:underline">
            Incidents
          </Link>{" "}
          / {incident.number} · {incident.title}
        </>
      }
      aside={
        <>
          <Mark state={incidentMark[incident.state]} label={incident.state} />
          {!runs && <Button onClick={() => look.mutate()}>Look again</Button>}
          {incident.state === "marked" && <Button onClick={() => forget.mutate()}>Forget it</Button>}
          <a
            href={`/api/v1/incidents/${incident.number}/report`}
            target="_blank"
            rel="noreferrer"
            className="text-accent underline underline-offset-2"
          >
            Report
          </a>
        </>
      }
    >
      <div className="px-4 py-3">
        <p>
          {incident.outlet ? (
            <>
              Outlet <Link href={`/outlets/${incident.outlet}`}>{incident.outlet}</Link>
            </>
          ) : (
            <>
              Device{" "}
              <Link href={`/devices/${encodeURIComponent(incident.device ?? "")}`}>{incident.device}</Link>
            </>
          )}
          , messages that came from <Time instant={incident.since} /> until <Time instant={incident.until} />.{" "}
          <span className="text-ink-soft">
            Marked by {incident.by}, <Time instant={incident.marked} />.
          </span>
        </p>
        {runs && progress && progress.expected !== null && (
          <div className="mt-2 flex items-center gap-3 text-[13px] text-ink-soft">
            <progress
              className="h-1.5 w-64 accent-(--accent)"
              value={progress.done}
              max={Math.max(1, progress.expected)}
              aria-label="Progress"
            />
            {incident.state === "looking" ? "Looking" : "Mending, then looking again"}: {count(progress.done)}{" "}
            of {count(progress.expected)} messages{progress.note && `. ${progress.note}.`}
          </div>
        )}
        {progress?.state === "failed" && <p className="mt-2 text-bad">It ended early: {progress.note}</p>}
      </div>
    </Panel>
  );
}

type Row = {
  label: string;
  of: (findings: Findings) => number;
  done?: (acted: Findings) => number;
  href?: string;
};

function rows(incident: Incident): Row[] {
  const example = (what: string) => {
    const id = (incident.before ?? incident.findings).examples[what]?.[0];
    return id ? `/messages/${id}` : undefined;
  };
  return [
    { label: "messages received", of: (one) => one.messages },
    { label: "deliveries arrived", of: (one) => one.delivered },
    { label: "deliveries are on their way", of: (one) => one.waiting },
    {
      label: "messages are unread",
      of: (one) => one.unread,
      done: (one) => one.readable,
      href: example("unread"),
    },
    {
      label: "deliveries are dead",
      of: (one) => total(one.dead),
      done: (one) => total(one.dead),
      href: example("dead"),
    },
    {
      label: "deliveries were never made: no lane took the message, one would now",
      of: (one) => total(one.unrouted),
      done: (one) => total(one.unrouted),
      href: example("unrouted"),
    },
    {
      label: "deliveries by the wrong revision you named",
      of: (one) =>
        (incident.acts?.wrong ?? []).reduce((sum, wrong) => sum + (one.revisions[String(wrong)] ?? 0), 0),
      done: (one) => total(one.revisions),
    },
    { label: "messages missing, by the devices’ own sequence numbers", of: neverCame },
  ];
}

function Found({ incident }: { incident: Incident }) {
  const { before, acted, findings } = incident;
  const all = rows(incident).filter((row) => incident.acts || !row.label.includes("you named"));
  return (
    <Panel title={acted ? "Findings and progress" : "Findings"} label="Findings">
      <table className="w-full max-w-4xl border-collapse">
        <thead className={acted ? "" : "sr-only"}>
          <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
            <th />
            <th className="text-right!">{acted ? "Found" : "How many"}</th>
            {acted && <th className="text-right!">Mended</th>}
            {acted && <th className="text-right!">Now</th>}
            <th />
          </tr>
        </thead>
        <tbody>
          {all.map((row) => (
            <tr key={row.label} className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1">
              <td>{row.label}</td>
              <td className="w-28 text-right tabular-nums">{count(row.of(before ?? findings))}</td>
              {acted && (
                <td className="w-28 text-right tabular-nums">{row.done ? count(row.done(acted)) : ""}</td>
              )}
              {acted && <td className="w-28 text-right tabular-nums">{count(row.of(findings))}</td>}
              <td className="w-32 text-[12px]">
                {row.href && (
                  <Link href={row.href} className="text-accent underline underline-offset-2">
                    one of them
                  </Link>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {Object.keys((before ?? findings).dead).length > 0 && (
        <p className="border-t border-rule px-4 py-2 text-[13px] text-ink-soft">
          Dead by cause:{" "}
          {Object.entries((before ?? findings).dead)
            .map(([cause, dead]) => `${cause} (${count(dead)})`)
            .join(", ")}
        </p>
      )}
    </Panel>
  );
}

const verbs: Record<Act, string> = {
  read: "Read again",
  retry: "Try dead deliveries again",
  take: "Deliver what was never delivered",
  wrong: "Correct what went out wrong",
};

function Proposals({ incident }: { incident: Incident }) {
  const client = useQueryClient();
  const [chosen, setChosen] = useState<Record<Act, boolean>>({
    read: true,
    retry: true,
    take: true,
    wrong: false,
  });
  const [wrong, setWrong] = useState<number[]>([]);
  const mend = useMutation({
    mutationFn: (acts: Acts) => incidents.mend(incident.number, acts),
    onSuccess: () => client.invalidateQueries({ queryKey: ["incidents"] }),
  });
  if (incident.proposals.length === 0) {
    return (
      <Panel title="Repair options">
        <Empty title="Nothing to repair in this time span">
          Everything that came in it was read and delivered. If the trouble was earlier or later, forget this
          one and mark another.
        </Empty>
      </Panel>
    );
  }
  const there = (act: Act) => incident.proposals.some((one) => one.act === act);
  const acts: Acts = {
    read: there("read") && chosen.read,
    retry: there("retry") && chosen.retry,
    take: there("take") && chosen.take,
    wrong: chosen.wrong ? wrong : [],
  };
  const corrected = incident.revisions
    .filter((one) => acts.wrong.includes(one.revision))
    .reduce((sum, one) => sum + one.deliveries, 0);
  const any = acts.read || acts.retry || acts.take || acts.wrong.length > 0;
  const doing = incident.proposals
    .filter((one) => (one.act === "wrong" ? corrected > 0 : acts[one.act]))
    .map((one) => `${verbs[one.act].toLowerCase()} (${count(one.act === "wrong" ? corrected : one.count)})`);
  return (
    <Panel title="Repair options" label="Repair options">
      <ul>
        {incident.proposals.map((one) => (
          <li key={one.act} className="border-b border-rule px-4 py-2.5">
            <label className="flex items-start gap-3">
              <input
                type="checkbox"
                className="mt-1 accent-(--accent)"
                checked={chosen[one.act]}
                onChange={(event) => setChosen({ ...chosen, [one.act]: event.target.checked })}
              />
              <span>
                <span className="font-semibold">{verbs[one.act]}</span>
                <span className="block">{one.what}</span>
                <span className="block text-[13px] text-ink-soft">Order: {one.order}</span>
                <span className="block text-[13px] text-ink-soft">Doubles: {one.doubles}</span>
              </span>
            </label>
            {one.act === "wrong" && chosen.wrong && (
              <fieldset className="mt-2 ml-7 space-y-1">
                <legend className="text-[13px] text-ink-soft">Which revisions were wrong?</legend>
                {incident.revisions.map((revision) => (
                  <label key={revision.revision} className="flex items-center gap-2 text-[13px]">
                    <input
                      type="checkbox"
                      className="accent-(--accent)"
                      disabled={revision.active}
                      checked={wrong.includes(revision.revision)}
                      onChange={(event) =>
                        setWrong(
                          event.target.checked
                            ? [...wrong, revision.revision]
                            : wrong.filter((other) => other !== revision.revision),
                        )
                      }
                    />
                    Revision {revision.revision}
                    {revision.adopted && (
                      <span className="text-ink-soft">
                        active since <Time instant={revision.adopted} />, by {revision.by}
                        {revision.note ? `: ${revision.note}` : ""}
                        {revision.active && "; it is active, and would make the same again"}
                      </span>
                    )}
                    <span className="ml-auto">{plural(revision.deliveries, "delivery", "deliveries")}</span>
                  </label>
                ))}
              </fieldset>
            )}
          </li>
        ))}
      </ul>
      <div className="flex items-center gap-3 px-4 py-3">
        <Confirm
          trigger={
            <Button look="main" disabled={!any || mend.isPending}>
              Do what is chosen
            </Button>
          }
          title={`Mend incident ${incident.number}?`}
          action="Mend it"
          onConfirm={() => mend.mutate(acts)}
        >
          This will {doing.join(", ")}. It goes through the span in the order the messages came, goes on after
          a restart, and cannot be taken back.
        </Confirm>
        {mend.error && (
          <span role="alert" className="text-[13px] text-bad">
            {mend.error.message}
          </span>
        )}
        {!any && <span className="text-[13px] text-ink-soft">Choose what is to be done.</span>}
      </div>
    </Panel>
  );
}

function Missing({ findings }: { findings: Findings }) {
  if (findings.missing.length === 0) return null;
  return (
    <Panel title="Gaps" label="Gaps">
      <p className="px-4 pt-2 text-[13px] text-ink-soft">
        Devices number their messages; these numbers are missing. They cannot be made good here.
      </p>
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
            <th>Device</th>
            <th>Numbers</th>
            <th className="text-right!">How many</th>
            <th>Before</th>
          </tr>
        </thead>
        <tbody>
          {findings.missing.map((one) => (
            <tr key={one.message} className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1">
              <td className="font-mono text-[12.5px]">
                <Link href={`/devices/${encodeURIComponent(one.device)}`}>{one.device}</Link>
              </td>
              <td>{one.first === one.last ? one.first : `${one.first} to ${one.last}`}</td>
              <td className="text-right">{count(one.last - one.first + 1 - one.late)}</td>
              <td>
                <Link href={`/messages/${one.message}`} className="underline underline-offset-2">
                  <Time instant={one.at} />
                </Link>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  );
}
