import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type KeyboardEvent, useState } from "react";
import { Link, useLocation } from "wouter";
import { Problem, withQuery } from "../api";
import { type Alarm, lookouts, type WholeAlarm } from "../lookouts";
import { usePages } from "../pages-of-list";
import { Button } from "../ui/button";
import { Field, Segments } from "../ui/field";
import { Mark, Simulated } from "../ui/mark";
import { More } from "../ui/more";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Since, Time } from "../ui/time";
import { WatchPlot } from "../ui/watch-plot";
import { figure, length, plural, time } from "../words";

const filters = [
  ["raised", "raised"],
  ["shelved", "shelved"],
  ["cleared", "cleared"],
  ["all", "all"],
] as const;

type Filter = (typeof filters)[number][0];

const AROUND = 2 * 3_600_000;

/** What lookouts raised, beside what a person can do about it. */
export function AlarmsPage({ number }: { number?: string }) {
  const [filter, setFilter] = useState<Filter>("raised");
  const [lookout, setLookout] = useState("");
  const [device, setDevice] = useState("");
  const [, go] = useLocation();
  const known = useQuery({ queryKey: ["lookouts"], queryFn: lookouts.all });
  const pages = usePages(
    ["alarms", filter, lookout, device],
    (after) =>
      lookouts.alarms({
        lookout: lookout || undefined,
        device: device || undefined,
        state: filter === "raised" || filter === "all" ? undefined : filter,
        after,
      }),
    2000,
  );
  const found = pages.data?.pages.flatMap((page) => page.alarms);
  if (pages.isError && !found) return <Failure error={pages.error} />;
  const alarms = (found ?? []).filter((one) => filter !== "raised" || one.state !== "cleared");
  const moreRaised = filter !== "raised" || alarms.length === found?.length;
  const chosen = Number(number ?? alarms[0]?.number ?? 0);
  const move = (event: KeyboardEvent) => {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (step === 0) return;
    event.preventDefault();
    const at = alarms.findIndex((one) => one.number === chosen) + step;
    const next = alarms[Math.min(alarms.length - 1, Math.max(0, at))];
    if (next) {
      go(`/alarms/${next.number}`);
      document.getElementById(`alarm-${next.number}`)?.focus();
    }
  };
  return (
    <div className="space-y-4">
      <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,5fr)_minmax(0,7fr)]">
        <Panel
          label="Alarms"
          title={<Segments label="which alarms" value={filter} options={filters} onChange={setFilter} />}
          aside={
            <>
              <select
                aria-label="lookout"
                className="h-7 rounded border border-rule bg-sheet px-1.5 text-[13px]"
                value={lookout}
                onChange={(event) => setLookout(event.target.value)}
              >
                <option value="">every lookout</option>
                {known.data?.map((one) => (
                  <option key={one.name}>{one.name}</option>
                ))}
              </select>
              <input
                aria-label="device"
                placeholder="device"
                className="h-7 w-28 rounded border border-rule bg-sheet px-2 text-[13px]"
                value={device}
                onChange={(event) => setDevice(event.target.value.trim())}
              />
            </>
          }
        >
          {found === undefined && <Loading />}
          {found !== undefined && alarms.length === 0 && (
            <Nothing filter={filter} any={(known.data ?? []).length > 0} />
          )}
          <ul onKeyDown={move}>
            {alarms.map((one) => (
              <li key={one.number} className="border-b border-rule last:border-0">
                <Link
                  id={`alarm-${one.number}`}
                  href={`/alarms/${one.number}`}
                  aria-current={one.number === chosen ? "true" : undefined}
                  className={`block px-4 py-2 ${one.number === chosen ? "bg-accent-wash" : "hover:bg-inset"}`}
                >
                  <span className="flex items-center gap-2">
                    <AlarmMark alarm={one} />
                    <span className="font-semibold">{one.lookout}</span>
                    <span className="truncate">{subject(one)}</span>
                    {one.simulated && <Simulated />}
                    <span className="ml-auto text-[13px] whitespace-nowrap text-ink-soft">
                      <Since instant={one.raised} />
                    </span>
                  </span>
                  <span className="block truncate text-[13px] text-ink-soft">{one.text}</span>
                </Link>
              </li>
            ))}
          </ul>
          {moreRaised && <More pages={pages} />}
        </Panel>
        {chosen > 0 && <Whole key={chosen} number={chosen} />}
      </div>
    </div>
  );
}

function Nothing({ filter, any }: { filter: Filter; any: boolean }) {
  if (!any)
    return (
      <Empty title="No lookouts yet">
        <Link href="/lookouts" className="text-accent hover:underline">
          Set up a lookout
        </Link>{" "}
        for a frost, a value that stands still, or a device that falls silent.
      </Empty>
    );
  return (
    <Empty title={filter === "raised" ? "No alarm is raised." : "There are none of these."}>
      {filter === "raised" && "Everything that is watched is as it should be."}
    </Empty>
  );
}

const subject = (alarm: Alarm) => `${alarm.device ?? alarm.key}${alarm.point ? `, ${alarm.point}` : ""}`;

function AlarmMark({ alarm }: { alarm: Alarm }) {
  const mark = { open: "failing", acknowledged: "late", shelved: "quiet", cleared: "quiet" }[alarm.state];
  return <Mark state={mark} label={alarm.state === "open" ? "raised" : alarm.state} />;
}

function Whole({ number }: { number: number }) {
  const client = useQueryClient();
  const [text, setText] = useState("");
  const whole = useQuery({
    queryKey: ["alarm", number],
    queryFn: () => lookouts.alarm(number),
    refetchInterval: 2000,
  });
  const act = useMutation({
    mutationFn: ({
      what,
      span,
    }: {
      what: "acknowledge" | "comment" | "shelve" | "unshelve";
      span?: string;
    }) =>
      lookouts.act(number, what, {
        ...(text.trim() ? { text: text.trim() } : {}),
        ...(span ? { span } : {}),
      }),
    onSuccess: (now: WholeAlarm) => {
      setText("");
      client.setQueryData(["alarm", number], now);
      client.invalidateQueries({ queryKey: ["alarms"] });
    },
  });
  if (whole.isError && !whole.data) return <Failure error={whole.error} />;
  if (!whole.data) return <Loading />;
  const { alarm, acts } = whole.data;
  const open = alarm.state !== "cleared";
  return (
    <Panel
      label="Alarm"
      title={
        <span className="flex items-center gap-2">
          <AlarmMark alarm={alarm} />
          {alarm.lookout}: {subject(alarm)}
        </span>
      }
      aside={`alarm ${alarm.number}`}
    >
      <div className="space-y-3 px-4 py-3">
        <Series alarm={alarm} />
        <Facts alarm={alarm} />
        <form
          className="space-y-2 border-t border-rule pt-3"
          onSubmit={(event) => {
            event.preventDefault();
            act.mutate({ what: "comment" });
          }}
        >
          <Field
            label="Comment"
            value={text}
            placeholder="fans are on in row 7"
            error={act.error?.message}
            onChange={(event) => setText(event.target.value)}
          />
          <div className="flex flex-wrap gap-2">
            {open && !alarm.acknowledged && (
              <Button look="main" onClick={() => act.mutate({ what: "acknowledge" })}>
                Acknowledge
              </Button>
            )}
            <Button type="submit" disabled={text.trim() === ""}>
              Comment
            </Button>
            {open &&
              alarm.shelvedUntil === null &&
              ["1h", "8h", "1d"].map((span) => (
                <Button key={span} onClick={() => act.mutate({ what: "shelve", span })}>
                  Shelve for {span.replace("h", " h").replace("d", " day")}
                </Button>
              ))}
            {alarm.shelvedUntil !== null && (
              <Button onClick={() => act.mutate({ what: "unshelve" })}>Shelve no longer</Button>
            )}
          </div>
        </form>
        {acts.length > 0 && (
          <ol aria-label="History" className="space-y-1 border-t border-rule pt-2 text-[13px]">
            {acts.map((one) => (
              <li key={`${one.at} ${one.act}`}>
                <span className="text-ink-soft">
                  <Time instant={one.at} /> {one.by}
                </span>{" "}
                {one.act}
                {one.until && ` until ${time(one.until)}`}
                {one.text && `: ${one.text}`}
              </li>
            ))}
          </ol>
        )}
      </div>
    </Panel>
  );
}

function Facts({ alarm }: { alarm: Alarm }) {
  const lasted = Date.parse(alarm.cleared ?? new Date().toISOString()) - Date.parse(alarm.since);
  return (
    <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5 text-[13px] [&>dt]:text-ink-soft">
      <dt>what</dt>
      <dd>{alarm.text}</dd>
      <dt>since</dt>
      <dd>
        <Time instant={alarm.since} />, raised <Time instant={alarm.raised} />
        {!alarm.told && ", nobody was notified while it was shelved"}
      </dd>
      <dt>until</dt>
      <dd>
        {alarm.cleared ? <Time instant={alarm.cleared} /> : "now"}, {length(Math.max(0, lasted))}
      </dd>
      {alarm.extreme !== null && (
        <>
          <dt>furthest</dt>
          <dd>
            {figure(alarm.extreme)}
            {alarm.extremeAt && (
              <>
                {" at "}
                <Time instant={alarm.extremeAt} />
              </>
            )}
          </dd>
        </>
      )}
      {alarm.acknowledged && (
        <>
          <dt>acknowledged</dt>
          <dd>
            <Time instant={alarm.acknowledged} /> by {alarm.acknowledgedBy}
          </dd>
        </>
      )}
      <dt>messages</dt>
      <dd className="space-x-3">
        {alarm.cause && (
          <Link href={`/messages/${alarm.cause}`} className="text-accent hover:underline">
            the one that showed it first
          </Link>
        )}
        {alarm.told && (
          <Link href={`/messages/${alarm.id}`} className="text-accent hover:underline">
            the one that tells of it
          </Link>
        )}
        {alarm.device && (
          <Link href={`/devices/${encodeURIComponent(alarm.device)}`} className="text-accent hover:underline">
            the device
          </Link>
        )}
      </dd>
    </dl>
  );
}

/** The value around the alarm, as its lookout sees it now. */
function Series({ alarm }: { alarm: Alarm }) {
  const from = new Date(Date.parse(alarm.since) - AROUND).toISOString();
  const to = new Date(alarm.cleared ? Date.parse(alarm.cleared) + AROUND : Date.now()).toISOString();
  const rehearsal = useQuery({
    queryKey: ["alarm-series", alarm.number, alarm.cleared],
    queryFn: () =>
      lookouts.rehearse(alarm.lookout, { from, to, device: alarm.device ?? undefined, key: alarm.key }),
    refetchInterval: alarm.cleared ? false : 10_000,
    retry: false,
  });
  const found = rehearsal.data?.rehearsed;
  if (rehearsal.isError && !found) {
    return rehearsal.error instanceof Problem && rehearsal.error.status === 404 ? (
      <p className="text-[13px] text-ink-soft">
        No plot: lookout {alarm.lookout} has been removed, and only it says which value to draw.
      </p>
    ) : (
      <Failure error={rehearsal.error} />
    );
  }
  if (!found) {
    return (
      <div className="grid h-[240px] place-content-center text-[13px] text-ink-soft" role="status">
        Reading the values around the alarm …
      </div>
    );
  }
  if (found.values.length === 0) {
    return (
      <p className="text-[13px] text-ink-soft">
        No plot: this lookout compares no value with a level. It looked at{" "}
        <Link
          href={withQuery("/messages", { device: alarm.device, from, to })}
          className="text-accent hover:underline"
        >
          {plural(found.messages, "message", "messages")}
        </Link>{" "}
        around the alarm.
      </p>
    );
  }
  return (
    <WatchPlot
      label={alarm.lookout}
      values={found.values}
      on={rehearsal.data?.on ?? null}
      off={rehearsal.data?.off ?? null}
      spans={[{ from: alarm.since, to: alarm.cleared }]}
      from={found.from}
      to={found.to}
    />
  );
}
