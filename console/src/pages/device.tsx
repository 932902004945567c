import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useLocation } from "wouter";
import { api, type Device, type Knowledge, Problem, withQuery } from "../api";
import { factValue } from "../facts";
import { useLive } from "../live";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { Confirm } from "../ui/confirm";
import { Mark, Simulated } from "../ui/mark";
import { Empty, Failure, Panel } from "../ui/panel";
import { Plot } from "../ui/plot";
import { Since, Time } from "../ui/time";
import { count, figure, length, plural, unitWord } from "../words";

const SPANS: Record<string, number> = { "1 h": 3600, "6 h": 21_600, "1 day": 86_400, "7 days": 604_800 };

export function DevicePage({ device: key }: { device: string }) {
  const client = useQueryClient();
  const device = useQuery({ queryKey: ["device", key], queryFn: () => api.device(key) });
  useLive({
    message: (message) => {
      if (message.device === key) client.invalidateQueries({ queryKey: ["device", key] });
    },
  });
  if (device.isError) {
    return device.error instanceof Problem && device.error.status === 404 ? (
      <Panel>
        <Empty title={`There is no device ${key}.`}>
          It may have been forgotten.{" "}
          <Link href="/devices" className="underline">
            All devices
          </Link>
        </Empty>
      </Panel>
    ) : (
      <Failure error={device.error} />
    );
  }
  if (!device.data) return null;
  return (
    <div className="space-y-4">
      <Head device={device.data} />
      <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,5fr)_minmax(0,7fr)]">
        <div className="space-y-4">
          <Values device={device.data} />
          <Known key={device.data.revision} device={device.data} />
          <Points device={device.data} />
          <Earlier device={device.data} />
        </div>
        <div className="space-y-4">
          <History device={device.data} />
          <Lanes device={device.data} />
          <Gaps device={device.data} />
          <Recent device={device.data} />
        </div>
      </div>
    </div>
  );
}

function Head({ device }: { device: Device }) {
  const client = useQueryClient();
  const [, go] = useLocation();
  const again = () => client.invalidateQueries({ queryKey: ["device", device.key] });
  const bar = async () => {
    await api.bar(device.key, device.state !== "barred");
    again();
  };
  const forget = async () => {
    await api.forget(device.key);
    go("/devices");
  };
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
      <h1 className="font-mono text-[18px] font-medium">{device.key}</h1>
      <Mark state={device.state} />
      {device.simulated && <Simulated />}
      <span className="ml-auto inline-flex items-center gap-2">
        <Link
          href={`/incidents?device=${encodeURIComponent(device.key)}`}
          className="text-[13px] text-accent underline underline-offset-2"
        >
          Mark an incident
        </Link>
        <Button onClick={bar}>{device.state === "barred" ? "Unbar" : "Bar"}</Button>
        <Confirm
          trigger={<Button look="danger">Forget</Button>}
          title={`Forget ${device.key}?`}
          action="Forget"
          onConfirm={forget}
        >
          What is known of it leaves the registry. Its messages stay, and it comes back when it is heard by an
          inlet that admits strangers.
        </Confirm>
      </span>
      <p className="w-full text-ink-soft">
        {device.model ?? "no model"},{" "}
        {device.lastHeard === null ? (
          "never heard yet"
        ) : (
          <>
            heard <Since instant={device.lastHeard} />, {plural(device.messages, "message", "messages")}
          </>
        )}
        {device.silentAfterSeconds !== null &&
          `, called silent after ${length(device.silentAfterSeconds * 1000)}`}
        {device.state === "barred" && ". Its messages are kept, and no lane takes them."}
      </p>
    </div>
  );
}

function Values({ device }: { device: Device }) {
  const models = useQuery({ queryKey: ["models"], queryFn: api.models });
  const fields = models.data?.find((model) => model.name === device.model)?.fields ?? {};
  const values = inOrder(device, Object.keys(fields));
  return (
    <Panel title="Last known values">
      {values.length === 0 ? (
        <Empty title="No reading has come yet." />
      ) : (
        <table className="w-full border-collapse">
          <tbody>
            {values.map(([name, value]) => (
              <tr key={name} className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1">
                <td title={name}>{fields[name]?.label ?? name}</td>
                <td className="text-right font-medium">
                  {typeof value.value === "number" ? figure(value.value) : String(value.value)}
                  {fields[name]?.unit && (
                    <span className="ml-1 font-normal text-ink-soft">{unitWord(fields[name].unit)}</span>
                  )}
                </td>
                <td className="text-right text-ink-soft">
                  <Time instant={value.at} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Ways device={device} />
    </Panel>
  );
}

/** Values in the order in which the model has its fields. */
function inOrder(device: Device, fields: string[]) {
  const place = (name: string) => (fields.includes(name) ? fields.indexOf(name) : fields.length);
  return Object.entries(device.values ?? {}).sort(([a], [b]) => place(a) - place(b) || a.localeCompare(b));
}

/** By which gateway it last came; a gateway's position is not the device's. */
function Ways({ device }: { device: Device }) {
  const { gateway, gatewayLatitude, gatewayLongitude, ...more } = device.gateway;
  if (gateway === undefined && Object.keys(more).length === 0) return null;
  const details = Object.entries(more).map(([name, value]) => `${name} ${value}`);
  return (
    <p className="border-t border-rule px-4 py-2 text-[13px] text-ink-soft">
      Last came by gateway {gateway ?? "unnamed"}
      {gatewayLatitude !== undefined && `, which stands at ${gatewayLatitude}, ${gatewayLongitude}`}
      {details.length > 0 && ` (${details.join(", ")})`}
    </p>
  );
}

const field = "h-8 w-full rounded border border-rule bg-sheet px-2.5 text-[13px]";

/** What people know of it; every change is a revision. */
function Known({ device }: { device: Device }) {
  const client = useQueryClient();
  const [facts, setFacts] = useState<[string, string][]>(
    Object.entries(device.facts)
      .sort()
      .map(([name, value]) => [name, String(value)]),
  );
  const [more, setMore] = useState({
    model: device.model ?? "",
    zone: device.zone ?? "",
    born: device.born ?? "",
    silentAfter: device.silentAfter ?? "",
  });
  const save = useMutation({
    mutationFn: () => {
      const known: Knowledge = {
        model: more.model || null,
        facts: Object.fromEntries(
          facts.filter(([name, value]) => name !== "" && value !== "").map(([n, v]) => [n, factValue(v)]),
        ),
        points: device.points,
        zone: more.zone || null,
        born: more.born || null,
        silentAfter: more.silentAfter || null,
      };
      return api.know(device.key, known);
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ["device", device.key] }),
  });
  const edit = (at: number, name: string, value: string) =>
    setFacts(facts.map((fact, i) => (i === at ? [name, value] : fact)));
  const rows: [keyof typeof more, string, string][] = [
    ["model", "model", "such as climate-station"],
    ["zone", "time zone", "that of its inlet"],
    ["born", "in place since", "an instant, such as 2026-03-01T00:00:00Z"],
    ["silentAfter", "silent after", "its model's or its own rhythm"],
  ];
  return (
    <Panel title="What is known of it" aside={`revision ${device.revision}`}>
      <form
        className="space-y-3 px-4 py-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <div className="grid grid-cols-[9rem_1fr] items-center gap-x-2 gap-y-1.5">
          {rows.map(([name, label, hint]) => (
            <Row key={name} label={label}>
              <input
                aria-label={label}
                className={field}
                placeholder={hint}
                value={more[name]}
                onChange={(event) => setMore({ ...more, [name]: event.target.value.trim() })}
              />
            </Row>
          ))}
          {facts.map(([name, value], at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: rows are edited in place and have no other identity
            <div key={at} className="contents">
              <input
                aria-label={`Name of fact ${at + 1}`}
                className={`${field} font-medium`}
                value={name}
                onChange={(event) => edit(at, event.target.value.trim(), value)}
              />
              <input
                aria-label={`Value of ${name || "the new fact"}`}
                className={field}
                value={value}
                onChange={(event) => edit(at, name, event.target.value)}
              />
            </div>
          ))}
        </div>
        <div className="flex items-center gap-2">
          <Button onClick={() => setFacts([...facts, ["", ""]])}>Add a fact</Button>
          <Button type="submit" look="main" disabled={save.isPending}>
            Save
          </Button>
          <span role="status" className="text-[13px] text-bad">
            {save.isError && save.error.message}
          </span>
        </div>
      </form>
    </Panel>
  );
}

/** What was known of it before, so that an old message can be understood. */
function Earlier({ device }: { device: Device }) {
  const revisions = useQuery({
    queryKey: ["device", device.key, "revisions", device.revision],
    queryFn: () => api.revisions(device.key),
  });
  const list = revisions.data ?? [];
  if (list.length === 0) return null;
  return (
    <Panel title="What was known before">
      <ul className="max-h-48 overflow-auto">
        {list.map((one) => (
          <li key={one.revision} className="border-b border-rule px-4 py-1 text-[13px] last:border-0">
            revision {one.revision}, until <Time instant={one.until} />, changed by {one.by}
            <p className="text-ink-soft">
              {one.knowledge.model ?? "no model"}
              {Object.entries(one.knowledge.facts)
                .sort()
                .map(([name, value]) => `, ${name} ${value}`)
                .join("")}
            </p>
          </li>
        ))}
      </ul>
    </Panel>
  );
}

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="contents">
      <span className="text-[13px] text-ink-faint">{label}</span>
      {children}
    </div>
  );
}

function Points({ device }: { device: Device }) {
  const models = useQuery({ queryKey: ["models"], queryFn: api.models });
  const declared = models.data?.find((model) => model.name === device.model)?.points ?? {};
  const names = [...new Set([...Object.keys(declared), ...Object.keys(device.points)])];
  if (names.length === 0) return null;
  return (
    <Panel title="Measuring points">
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
            <th>Point</th>
            <th>Reference</th>
            <th>Values</th>
          </tr>
        </thead>
        <tbody>
          {names.map((name) => (
            <tr key={name} className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1">
              <td className="font-medium">{name}</td>
              <td className="font-mono text-[12px]">{device.points[name]?.reference ?? "–"}</td>
              <td className="text-[13px] text-ink-soft">
                {Object.entries(declared[name]?.fields ?? {})
                  .map(([own, data]) => {
                    const value = device.values?.[data]?.value;
                    return `${own} ${typeof value === "number" ? figure(value) : (value ?? "none")}`;
                  })
                  .join(", ")}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  );
}

function History({ device }: { device: Device }) {
  const models = useQuery({ queryKey: ["models"], queryFn: api.models });
  const fields = Object.keys(models.data?.find((model) => model.name === device.model)?.fields ?? {});
  const numeric = inOrder(device, fields)
    .filter(([, value]) => typeof value.value === "number")
    .map(([name]) => name);
  const [chosen, setChosen] = useState("");
  const [span, setSpan] = useState("1 h");
  const name = chosen !== "" && numeric.includes(chosen) ? chosen : (numeric[0] ?? "");
  const series = useQuery({
    queryKey: ["device", device.key, "series", name, span],
    queryFn: () => api.series(device.key, name, from(SPANS[span] ?? 3600)),
    enabled: name !== "",
    placeholderData: (before) => before,
  });
  return (
    <Panel
      title={
        name === ""
          ? "Over time"
          : `${name} over time${series.data?.unit ? `, ${unitWord(series.data.unit)}` : ""}`
      }
      aside={
        <>
          <Choice label="field" value={name} options={numeric} onChange={setChosen} />
          <Choice
            label="span"
            value={span}
            options={Object.keys(SPANS)}
            onChange={(next) => setSpan(next || "1 h")}
          />
        </>
      }
    >
      <div className="px-2 py-2">
        {series.data && series.data.points.length > 0 ? (
          <Plot series={series.data} silentAfter={device.silentAfterSeconds} />
        ) : (
          <Empty title="Nothing to draw.">No number of it came within this span.</Empty>
        )}
      </div>
    </Panel>
  );
}

/** The lanes that serve it, and a way into one that lists its devices by hand. */
function Lanes({ device }: { device: Device }) {
  const client = useQueryClient();
  const lanes = useQuery({
    queryKey: ["device", device.key, "lanes"],
    queryFn: () => api.deviceLanes(device.key),
  });
  const add = useMutation({
    mutationFn: async (lane: string) => {
      const part = await api.part("lanes", lane);
      const content = part.content ?? {};
      const only = ((content.devices as { only?: string[] } | undefined)?.only ?? []).concat(device.key);
      return api.adoptPart("lanes", lane, {
        content: { ...content, devices: { ...(content.devices as object), only } },
        basedOn: part.mark,
        note: `${device.key} added to lane ${lane}`,
      });
    },
    onSuccess: () => client.invalidateQueries(),
  });
  const rows = useQuery({ queryKey: ["lanes"], queryFn: api.lanes });
  const recent = useQuery({
    queryKey: ["device", device.key, "inlets"],
    queryFn: async () =>
      (await api.messages({ device: device.key, limit: 20 })).messages.map((one) => one.inlet),
  });
  // Lanes of inlets it never came by would only be noise.
  const near = (lane: string) => {
    const inlets = rows.data?.find((row) => row.lane === lane)?.inlets ?? [];
    return (recent.data ?? []).length === 0 || inlets.some((inlet) => recent.data?.includes(inlet));
  };
  const list = (lanes.data ?? []).filter((one) => near(one.lane));
  const serving = list.filter((one) => one.serves);
  const open = list.filter((one) => !one.serves && one.handPicked);
  return (
    <Panel title={`Served by ${plural(serving.length, "lane", "lanes")}`} aside="if they pick what it sends">
      <ul className="px-4 py-2 text-[13px]">
        {serving.map((one) => (
          <li key={one.lane} className="flex items-center gap-2 py-0.5">
            <Link href={`/lanes/${one.lane}`} className="text-accent underline underline-offset-2">
              {one.lane}
            </Link>
            {one.handPicked && <span className="text-ink-soft">hand-picked</span>}
            {one.state === "closed" && <Mark state="closed" />}
          </li>
        ))}
        {list
          .filter((one) => !one.serves)
          .map((one) => (
            <li key={one.lane} className="flex flex-wrap items-center gap-2 py-0.5 text-ink-soft">
              <Link href={`/lanes/${one.lane}`} className="underline underline-offset-2">
                {one.lane}
              </Link>
              <span>not: {one.whyNot}</span>
              {open.includes(one) && (
                <Button
                  className="h-6! px-2! text-[12px]!"
                  disabled={add.isPending}
                  onClick={() => add.mutate(one.lane)}
                >
                  Add it to {one.lane}
                </Button>
              )}
            </li>
          ))}
      </ul>
      {add.isError && <p className="px-4 pb-2 text-[13px] text-bad">{add.error.message}</p>}
      {lanes.data && list.length === 0 && <p className="px-4 pb-3 text-ink-soft">There are no lanes yet.</p>}
    </Panel>
  );
}

function Gaps({ device }: { device: Device }) {
  const gaps = useQuery({
    queryKey: ["device", device.key, "gaps"],
    queryFn: () => api.gaps(device.key, from(86_400)),
  });
  const list = gaps.data ?? [];
  return (
    <Panel
      title="What never came"
      aside={`${plural(device.missing, "message", "messages")} by its own numbers, ${plural(device.restarts, "restart", "restarts")}`}
    >
      {list.length === 0 ? (
        <p className="px-4 py-3 text-ink-soft">Its numbers followed one another for the last day.</p>
      ) : (
        <ul className="max-h-48 overflow-auto">
          {list.map((gap) => (
            <li key={gap.message} className="border-b border-rule px-4 py-1 text-[13px] last:border-0">
              <Link href={`/messages/${gap.message}`} className="underline underline-offset-2">
                <Time instant={gap.at} />
              </Link>{" "}
              {gap.missing > 0
                ? `${plural(gap.missing, "number is", "numbers are")} missing: ${gap.before} was followed by ${gap.after}`
                : `its numbers began anew: ${gap.before} was followed by ${gap.after}`}
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}

function Recent({ device }: { device: Device }) {
  const messages = useQuery({
    queryKey: ["device", device.key, "messages"],
    queryFn: () => api.messages({ device: device.key, limit: 12 }),
  });
  const list = messages.data?.messages ?? [];
  return (
    <Panel
      title="Recent messages"
      aside={
        <Link
          href={withQuery("/messages", { device: device.key })}
          className="text-accent underline underline-offset-2"
        >
          all {count(device.messages)}
        </Link>
      }
    >
      {list.length === 0 ? (
        <Empty title="None yet." />
      ) : (
        <ul>
          {list.map((message) => (
            <li
              key={message.id}
              className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-4 py-1.5 last:border-0"
            >
              <Link href={`/messages/${message.id}`} className="text-accent underline underline-offset-2">
                <Time instant={message.received} />
              </Link>
              <span className="text-[13px] text-ink-soft">{message.sort}</span>
              <span className="ml-auto flex flex-wrap gap-1.5">
                {message.state !== "read" && (
                  <Mark
                    state={message.state}
                    label={message.state === "duplicate" ? "copy" : undefined}
                    title={message.reason ?? undefined}
                  />
                )}
                {message.state === "read" && message.lanes.length === 0 && <Mark state="untaken" />}
                {message.lanes.map((lane) => (
                  <Mark key={lane.lane} state={lane.state} label={lane.lane} title={lane.state} />
                ))}
              </span>
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}

const from = (seconds: number) => new Date(Date.now() - seconds * 1000).toISOString();
