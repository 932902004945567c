import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "wouter";
import { api, type Balance, type LaneRow, type Overview, withQuery } from "../api";
import { type Said, verdict, withoutDatabase } from "../overview-words";
import { Beginning, SampleLoaded } from "../parts/beginning";
import { OwnTroubles, useStatus } from "../parts/own-troubles";
import { Button } from "../ui/button";
import { Mark } from "../ui/mark";
import { Empty, Failure, Panel } from "../ui/panel";
import { Since, Time } from "../ui/time";
import { Traffic } from "../ui/traffic";
import { count, unitWord } from "../words";

export function OverviewPage() {
  const overview = useQuery({ queryKey: ["overview"], queryFn: api.overview, refetchInterval: 2000 });
  const inlets = useQuery({ queryKey: ["inlets"], queryFn: api.inlets, refetchInterval: 5000 });
  const status = useStatus();
  const away = status.data?.databaseAway ? withoutDatabase(status.data.spools) : null;
  if (!overview.data) {
    return (
      <div className="space-y-4">
        {away && <Headline said={away} />}
        <OwnTroubles />
        {overview.isError && !away && <Failure error={overview.error} />}
      </div>
    );
  }
  if (!away && inlets.data?.every((one) => one.own) && overview.data.lanes.length === 0)
    return (
      <div className="space-y-4">
        <OwnTroubles />
        <Beginning />
      </div>
    );
  return (
    <div className="space-y-4">
      {overview.isError && !away && <Failure error={overview.error} />}
      <Headline said={away ?? verdict(overview.data)} />
      <OwnTroubles />
      {away && (
        <p className="text-[13px] text-ink-soft">
          Below is how things stood at <Time instant={overview.data.at} />.
        </p>
      )}
      <SampleLoaded />
      <BalancePanel balance={overview.data.balance} />
      <Panel title="Lanes" aside={<LanesAside overview={overview.data} />}>
        {overview.data.lanes.length === 0 ? (
          <Empty title="No lanes yet">
            A lane carries messages of inlets to an outlet. Make one on{" "}
            <Link href="/lanes" className="text-accent underline underline-offset-2">
              Lanes
            </Link>
            , or adopt a setup with <code className="font-mono text-[13px]">holtra setup adopt FILE</code>.
          </Empty>
        ) : (
          <Lanes lanes={overview.data.lanes} />
        )}
      </Panel>
    </div>
  );
}

/** So old a count is told of as such. */
const OLD_MILLIS = 3_000;

function LanesAside({ overview }: { overview: Overview }) {
  const old = Date.parse(overview.at) - Date.parse(overview.countedAt) > OLD_MILLIS;
  return (
    <>
      {old && (
        <>
          owed as counted at <Time instant={overview.countedAt} /> ·{" "}
        </>
      )}
      setup revision {overview.setupRevision}
    </>
  );
}

function Headline({ said }: { said: Said }) {
  const colour = { good: "text-good", wait: "text-wait", bad: "text-bad" }[said.state];
  return (
    <div>
      <h1 className={`text-[22px] leading-tight font-semibold ${colour}`}>{said.text}</h1>
      <p className="mt-0.5 text-ink-soft">{said.detail}</p>
    </div>
  );
}

/** The balance of the last hour as the sum it is. */
function BalancePanel({ balance }: { balance: Balance }) {
  const { intake, lanes } = balance;
  const sum = (field: keyof Omit<Balance["lanes"][number], "lane">) =>
    lanes.reduce((total, lane) => total + lane[field], 0);
  const unrouted = withQuery("/messages", { state: "unrouted" });
  return (
    <Panel
      label="Balance of the last hour"
      title="Balance of the last hour"
      aside={
        <>
          {balance.missing === 0 ? (
            <Mark state="delivered" label="balanced" />
          ) : (
            <Mark state="dead" label={`${count(balance.missing)} missing`} />
          )}
          <Link href="/balance" className="text-accent underline underline-offset-2">
            full balance
          </Link>
        </>
      }
    >
      <div className="grid gap-x-10 gap-y-3 px-4 py-3 xl:grid-cols-[auto_minmax(0,1fr)]">
        <Sum>
          <Term value={intake.acknowledged} label="acknowledged" />
          <IfAny value={intake.parts} label="parts of arrivals" />
          <Sign>=</Sign>
          <Term value={intake.read} label="read" />
          <Sign>+</Sign>
          <Term
            value={intake.unreadable}
            label="unreadable"
            tone="bad"
            href={withQuery("/messages", { state: "unreadable" })}
          />
          <IfAny
            value={intake.unclaimed}
            label="unclaimed"
            tone="wait"
            href={withQuery("/messages", { state: "unclaimed" })}
          />
          <IfAny
            value={intake.deferred}
            label="waiting to be read"
            tone="wait"
            href={withQuery("/messages", { state: "deferred" })}
          />
          <IfAny
            value={intake.duplicates}
            label="duplicates"
            href={withQuery("/messages", { state: "duplicate" })}
          />
          <IfAny value={intake.ignored} label="ignored" />
          <IfAny value={intake.whole} label="taken apart" href={withQuery("/messages", { state: "whole" })} />
          <IfAny value={intake.spooled} label="spooled" tone="wait" />
          {intake.unacknowledged > 0 && (
            <>
              <Sign>−</Sign>
              <Term value={intake.unacknowledged} label="kept unanswered" />
            </>
          )}
          <IfAny value={intake.missing} label="missing" tone="bad" />
          <span className="mx-1 h-8 border-l border-rule" aria-hidden="true" />
          <Term value={intake.unrouted} label="unrouted" href={unrouted} />
        </Sum>
        <Sum>
          <Term value={sum("taken")} label="taken by lanes" />
          <Sign>=</Sign>
          <Term value={sum("delivered")} label="delivered" />
          <Sign>+</Sign>
          <Term
            value={sum("waiting") + sum("inFlight")}
            label="waiting"
            tone="wait"
            href={withQuery("/messages", { state: "waiting" })}
          />
          <Sign>+</Sign>
          <Term value={sum("dead")} label="dead" tone="bad" href="/dead" />
          <Sign>+</Sign>
          <Term value={sum("dropped")} label="dropped" />
          <IfAny value={sum("heldBack")} label="held back" />
          <IfAny value={sum("merged")} label="merged" />
          <IfAny value={sum("remembered")} label="in memory" />
          <IfAny
            value={lanes.reduce((total, lane) => total + Math.abs(lane.missing), 0)}
            label="missing"
            tone="bad"
          />
        </Sum>
      </div>
    </Panel>
  );
}

function Sum({ children }: { children: ReactNode }) {
  return <div className="flex flex-wrap items-center gap-x-3 gap-y-2">{children}</div>;
}

function Sign({ children }: { children: string }) {
  return <span className="text-[18px] text-ink-faint">{children}</span>;
}

type Summand = { value: number; label: string; href?: string; tone?: "bad" | "wait" };

/** A further term of a sum, left out as long as it is nothing. */
function IfAny(summand: Summand) {
  if (summand.value === 0) return null;
  return (
    <>
      <Sign>+</Sign>
      <Term {...summand} />
    </>
  );
}

function Term({ value, label, href, tone }: Summand) {
  const colour = value > 0 && tone ? { bad: "text-bad", wait: "text-wait" }[tone] : "";
  const content = (
    <>
      <span className={`block text-[20px] leading-6 font-medium ${colour}`}>{count(value)}</span>
      <span className="block text-[12px] text-ink-faint">{label}</span>
    </>
  );
  if (!href || value === 0) return <div>{content}</div>;
  return (
    <Link
      href={href}
      className="rounded-sm underline decoration-rule-strong underline-offset-4 hover:decoration-accent"
    >
      {content}
    </Link>
  );
}

function Lanes({ lanes }: { lanes: LaneRow[] }) {
  return (
    <table className="w-full border-collapse">
      <thead>
        <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
          <th>State</th>
          <th>Lane</th>
          <th>Last hour</th>
          <th className="text-right!">Taken</th>
          <th className="text-right!">Owes</th>
          <th>Reason and action</th>
        </tr>
      </thead>
      <tbody>
        {lanes.map((lane, at) => (
          <LaneLine
            key={lane.lane}
            lane={lane}
            first={lanes.findIndex((one) => one.outlet === lane.outlet) === at}
          />
        ))}
      </tbody>
    </table>
  );
}

/** @param first whether it is the first of its outlet, which alone says what to do about the outlet */
function LaneLine({ lane, first }: { lane: LaneRow; first: boolean }) {
  const taken = lane.traffic.taken.reduce((a, b) => a + b, 0);
  const label =
    lane.trouble === "stopped" ? lane.outletState : lane.trouble === "dead" ? "dead letters" : lane.trouble;
  return (
    <tr className="border-b border-rule align-top last:border-0 [&>td]:px-4 [&>td]:py-2.5">
      <td className="w-28">
        <Mark state={lane.trouble} label={label} />
      </td>
      <td className="min-w-44">
        <Link href={`/lanes/${lane.lane}`} className="font-semibold hover:text-accent hover:underline">
          {lane.lane}
        </Link>
        <div className="text-[12px] text-ink-soft">
          {lane.inlets.join(", ")} → {lane.outlet}
        </div>
        {lane.pick && (
          <code
            className="mt-0.5 block max-w-72 truncate font-mono text-[11px] text-ink-faint"
            title={lane.pick}
          >
            {lane.pick}
          </code>
        )}
        {Object.keys(lane.units).length > 0 && (
          <div className="text-[11px] text-ink-faint">
            {Object.entries(lane.units)
              .map(([name, unit]) => `${name.replace(/^data\./, "")} in ${unitWord(unit)}`)
              .join(", ")}
          </div>
        )}
      </td>
      <td className="w-[196px]">
        <Traffic traffic={lane.traffic} />
      </td>
      <td className="w-20 text-right">{count(taken)}</td>
      <td className="w-32 text-right">
        {lane.owes > 0 ? (
          <Link
            href={withQuery("/messages", { lane: lane.lane, state: "waiting" })}
            className="font-semibold text-wait underline underline-offset-2"
          >
            {count(lane.owes)}
          </Link>
        ) : (
          <span className="text-ink-faint">0</span>
        )}
        {lane.oldest && (
          <div className="text-[12px] text-ink-soft">
            oldest <Since instant={lane.oldest} />
          </div>
        )}
      </td>
      <td>
        <Why lane={lane} first={first} />
      </td>
    </tr>
  );
}

function Why({ lane, first }: { lane: LaneRow; first: boolean }) {
  const client = useQueryClient();
  const tryNow = useMutation({
    mutationFn: () => api.tryOutlet(lane.outlet),
    onSettled: () => client.invalidateQueries({ queryKey: ["overview"] }),
  });
  if (!lane.reason && lane.dead === 0) return <span className="text-ink-faint">–</span>;
  return (
    <div className="max-w-xl space-y-1">
      {lane.reason && (
        <p>
          {lane.reason}
          {lane.since && (
            <span className="text-ink-soft">
              {" "}
              (since <Since instant={lane.since} />
              {lane.nextTry && (
                <>
                  , next try <Since instant={lane.nextTry} />
                </>
              )}
              )
            </span>
          )}
        </p>
      )}
      {lane.dead > 0 && (
        <p>
          <Link
            href={withQuery("/dead", { lane: lane.lane })}
            className="font-medium text-bad underline underline-offset-2"
          >
            {count(lane.dead)} dead {lane.dead === 1 ? "letter" : "letters"}
          </Link>
        </p>
      )}
      {lane.advice && (first || lane.trouble !== "stopped") && (
        <p className="text-[13px] text-ink-soft">{lane.advice}</p>
      )}
      {lane.outletState !== "flowing" && first && (
        <Button onClick={() => tryNow.mutate()} disabled={tryNow.isPending}>
          Try {lane.outlet} now
        </Button>
      )}
    </div>
  );
}
