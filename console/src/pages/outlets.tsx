import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation } from "wouter";
import { api, type Outlet } from "../api";
import { Check } from "../parts/check";
import { Connected, Diary } from "../parts/diary";
import { Introductions } from "../parts/introductions";
import { NewOutlet } from "../parts/new-outlet";
import { acceptSettings, PartForm, pageOf } from "../parts/part-form";
import { Remove } from "../parts/remove";
import { Switch } from "../parts/switch";
import { Tags } from "../parts/tags";
import { Button } from "../ui/button";
import { Mark } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Since } from "../ui/time";
import { count, length, money, plural, size } from "../words";
import { NewLane } from "./lanes";

const NEW = "new";

/** The ways out: how each stands, what it sent, what that costs, and its form. */
export function OutletsPage({ name }: { name?: string }) {
  const outlets = useQuery({ queryKey: ["outlets"], queryFn: api.outlets, refetchInterval: 3000 });
  const [, go] = useLocation();
  if (outlets.isError && !outlets.data) return <Failure error={outlets.error} />;
  if (!outlets.data) return <Loading />;
  const fresh = name === NEW || outlets.data.length === 0;
  const outlet = fresh ? undefined : (outlets.data.find((one) => one.name === name) ?? outlets.data[0]);
  return (
    <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,4fr)_minmax(0,9fr)]">
      <Panel
        title={plural(outlets.data.length, "outlet", "outlets")}
        aside={
          <Button look="main" onClick={() => go("/outlets/new")}>
            New outlet
          </Button>
        }
      >
        {outlets.data.length === 0 && (
          <Empty title="No outlets yet">
            Paste what a destination's documentation shows, or begin with a well-known shape.
          </Empty>
        )}
        <ul>
          {outlets.data.map((one) => (
            <li key={one.name} className="border-b border-rule last:border-0">
              <Link
                href={pageOf("outlets", one.name)}
                aria-current={one === outlet ? "true" : undefined}
                className={`block px-4 py-2 ${one === outlet ? "bg-accent-wash" : "hover:bg-inset"}`}
              >
                <span className="flex items-center gap-2">
                  <span className="font-semibold">{one.name}</span>
                  <span className="ml-auto">
                    <Mark state={one.state} />
                  </span>
                </span>
                <span className="flex gap-3 text-[12px] text-ink-soft">
                  <span className="truncate font-mono">{one.address}</span>
                  <span className="ml-auto whitespace-nowrap">
                    {count(one.traffic.dayMessages)} in the last day
                  </span>
                </span>
              </Link>
            </li>
          ))}
        </ul>
      </Panel>
      {outlet ? <One key={outlet.name} outlet={outlet} /> : <Fresh />}
    </div>
  );
}

/** How messages stand together in a batch, where the kind has several ways. */
const batchForm = (word: string | null) =>
  word === null ? "" : word === "lines" ? ", a line each" : `, as a ${word}`;

function Fresh() {
  const [, go] = useLocation();
  return (
    <NewOutlet
      onMade={(name, shape) => {
        if (shape) sessionStorage.setItem(`holtra-shape-${name}`, JSON.stringify(shape));
        go(pageOf("outlets", name));
      }}
    />
  );
}

function One({ outlet }: { outlet: Outlet }) {
  const [applied, setApplied] = useState<number>();
  const client = useQueryClient();
  const [, go] = useLocation();
  const part = useQuery({
    queryKey: ["part", "outlets", outlet.name],
    queryFn: () => api.part("outlets", outlet.name),
  });
  const tryNow = useMutation({
    mutationFn: () => api.tryOutlet(outlet.name),
    onSettled: () => client.invalidateQueries({ queryKey: ["outlets"] }),
  });
  const tryDevices = useMutation({
    mutationFn: (device: string | undefined) => api.tryDevices(outlet.name, device),
    onSettled: () => client.invalidateQueries({ queryKey: ["outlets"] }),
  });
  const { traffic } = outlet;
  const stopped = ["blocked", "broken", "paused"].includes(outlet.state);
  return (
    <div className="space-y-4">
      <Panel
        title={outlet.name}
        aside={
          <>
            <Mark state={outlet.state} />
            <Link
              href={`/incidents?outlet=${encodeURIComponent(outlet.name)}`}
              className="text-accent underline underline-offset-2"
            >
              Mark an incident
            </Link>
            {stopped && <Button onClick={() => tryNow.mutate()}>Try it now</Button>}
            <Switch
              thing="outlets"
              name={outlet.name}
              closed={outlet.state === "closed"}
              what="Its deliveries wait until it is opened"
            />
            <Remove thing="outlets" name={outlet.name} onDone={() => go("/outlets")} />
          </>
        }
      >
        <div className="space-y-3 px-4 py-3">
          {outlet.connection && <Connected status={outlet.connection} shares={outlet.shares} />}
          {outlet.reason && (
            <p className="rounded bg-wait-wash px-2.5 py-1.5 text-[13px] text-wait">
              {outlet.reason}
              {outlet.since && (
                <>
                  , since <Since instant={outlet.since} />
                </>
              )}
              {outlet.nextProbe && (
                <>
                  , next try <Since instant={outlet.nextProbe} />
                </>
              )}
            </p>
          )}
          {outlet.batch && (
            <p className="text-[13px] text-ink-soft">
              Sends up to {count(outlet.batch.messages)} messages, or {size(outlet.batch.bytes)}, in one
              request{batchForm(outlet.batch.as)}; the first waits {outlet.batch.waitMillis / 1000} s for
              others.{" "}
              {outlet.batch.answers ? (
                <>
                  Its answer tells of each by <code>{outlet.batch.answers}</code>.
                </>
              ) : (
                "One that is refused is sent again in halves, until the message that is not taken is found."
              )}
            </p>
          )}
          {outlet.pace && (
            <p className="text-[13px] text-ink-soft">
              Its pace:{" "}
              {[
                outlet.pace.perSecond && `${outlet.pace.perSecond} a second`,
                outlet.pace.perDay &&
                  `${count(outlet.used?.ofDay ?? 0)} of ${count(outlet.pace.perDay)} used today`,
                outlet.pace.perMonth &&
                  `${count(outlet.used?.ofMonth ?? 0)} of ${count(outlet.pace.perMonth)} used this month`,
              ]
                .filter(Boolean)
                .join(", ")}
            </p>
          )}
          {outlet.held.length > 0 && (
            <div className="rounded bg-wait-wash px-2.5 py-1.5 text-[13px] text-wait">
              <div className="flex items-center gap-3">
                {plural(outlet.held.length, "device is", "devices are")} held; others go on:
                {outlet.held.length > 1 && (
                  <span className="ml-auto">
                    <Button onClick={() => tryDevices.mutate(undefined)}>Try all now</Button>
                  </span>
                )}
              </div>
              <ul>
                {outlet.held.slice(0, 20).map((one) => (
                  <li key={one.device}>
                    <Link
                      href={`/devices/${encodeURIComponent(one.device)}`}
                      className="font-mono text-[12.5px] underline underline-offset-2"
                    >
                      {one.device}
                    </Link>{" "}
                    {one.reason}, since <Since instant={one.since} />, next try <Since instant={one.until} />{" "}
                    <button
                      type="button"
                      className="text-accent underline underline-offset-2"
                      onClick={() => tryDevices.mutate(one.device)}
                    >
                      try now
                    </button>
                  </li>
                ))}
              </ul>
            </div>
          )}
          <table className="w-full">
            <thead>
              <tr className="border-b border-rule [&>th]:py-1">
                <th>Delivered</th>
                <th className="text-right!">last day</th>
                <th className="text-right!">last 7 days</th>
                <th className="text-right!">last 30 days</th>
                <th className="text-right!">waiting now</th>
                <th className="text-right!">a month costs about</th>
              </tr>
            </thead>
            <tbody>
              <tr className="[&>td]:py-1">
                <td>messages</td>
                <td className="text-right">{count(traffic.dayMessages)}</td>
                <td className="text-right">{count(traffic.weekMessages)}</td>
                <td className="text-right">{count(traffic.monthMessages)}</td>
                <td className="text-right">{count(outlet.waiting)}</td>
                <td className="text-right">
                  {outlet.monthly === null ? (
                    <span className="text-[13px] text-ink-faint">enter a price below</span>
                  ) : (
                    money(outlet.monthly, outlet.price?.currency ?? null)
                  )}
                </td>
              </tr>
              <tr className="text-ink-soft [&>td]:py-1">
                <td>bodies</td>
                <td className="text-right">{size(traffic.dayBytes)}</td>
                <td className="text-right">{size(traffic.weekBytes)}</td>
                <td className="text-right">{size(traffic.monthBytes)}</td>
                <td />
                <td className="text-right text-[12px]">
                  {outlet.monthly !== null &&
                    (traffic.first === null
                      ? "nothing sent yet"
                      : `from ${length(Math.min(30 * 86_400_000, Date.now() - Date.parse(traffic.first)))} of traffic`)}
                </td>
              </tr>
            </tbody>
          </table>
          <p className="flex flex-wrap items-center gap-2 text-[13px]">
            {outlet.lanes.length === 0
              ? "No lane delivers here yet."
              : outlet.lanes.map((lane) => (
                  <Link
                    key={lane}
                    href={`/lanes/${lane}`}
                    className="text-accent underline underline-offset-2"
                  >
                    {lane}
                  </Link>
                ))}
            <NewLane query={{ outlet: outlet.name }} label="New lane to this outlet" />
          </p>
          <Check
            of="outlets"
            name={outlet.name}
            onAccept={(settings) => acceptSettings("outlets", outlet.name, settings)}
          />
        </div>
      </Panel>
      {part.data?.content && (
        <PartForm
          key={part.data.mark}
          thing="outlets"
          name={outlet.name}
          part={part.data}
          start={part.data.content}
          applied={applied}
          onAdopted={(_, revision) => {
            setApplied(revision);
            part.refetch();
          }}
        />
      )}
      <Introductions outlet={outlet.name} />
      <Tags outlet={outlet.name} />
      <Diary of="outlets" name={outlet.name} />
    </div>
  );
}
