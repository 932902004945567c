import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation } from "wouter";
import { api, type FieldSeen, type Inlet, withQuery } from "../api";
import { useLive } from "../live";
import { Check } from "../parts/check";
import { Connected, Diary } from "../parts/diary";
import { acceptSettings, PartForm, pageOf, type StartPoint } from "../parts/part-form";
import { Reading } from "../parts/reading-proposal";
import { RefusedCalls } from "../parts/refusals";
import { Remove } from "../parts/remove";
import { Start } from "../parts/start";
import { Switch } from "../parts/switch";
import { Button } from "../ui/button";
import { Code } from "../ui/code";
import { Mark } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Since, Time } from "../ui/time";
import { count, figure, laidOut, plural, unitWord } from "../words";
import { NewLane } from "./lanes";

const NEW = "new";

/** The ways in: what comes by each, raw, and which fields it was read into. */
export function InletsPage({ name }: { name?: string }) {
  const inlets = useQuery({ queryKey: ["inlets"], queryFn: api.inlets, refetchInterval: 5000 });
  const [, go] = useLocation();
  if (inlets.isError && !inlets.data) return <Failure error={inlets.error} />;
  if (!inlets.data) return <Loading />;
  const fresh = name === NEW || inlets.data.length === 0;
  const inlet = fresh ? undefined : (inlets.data.find((one) => one.name === name) ?? inlets.data[0]);
  return (
    <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,4fr)_minmax(0,9fr)]">
      <div className="space-y-4">
        <Panel
          title={plural(inlets.data.length, "inlet", "inlets")}
          aside={
            <Button look="main" onClick={() => go("/inlets/new")}>
              New inlet
            </Button>
          }
        >
          {inlets.data.length === 0 && (
            <Empty title="No inlets yet">Begin with a well-known shape, or with nothing.</Empty>
          )}
          <ul>
            {inlets.data.map((one) => (
              <li key={one.name} className="border-b border-rule last:border-0">
                <Link
                  href={pageOf("inlets", one.name)}
                  aria-current={one === inlet ? "true" : undefined}
                  className={`block w-full px-4 py-2 text-left ${one === inlet ? "bg-accent-wash" : "hover:bg-inset"}`}
                >
                  <span className="font-semibold">{one.name}</span>{" "}
                  {one.state === "closed" && <Mark state="closed" />}
                  <span className="float-right text-ink-soft">
                    {count(one.lastHour)} in the last hour
                    {one.ignored > 0 && `, ${count(one.ignored)} ignored`}
                  </span>
                  <br />
                  <span className="font-mono text-[12px] text-ink-soft">{one.address}</span>
                </Link>
              </li>
            ))}
          </ul>
        </Panel>
        <RefusedCalls />
      </div>
      {inlet ? <One key={inlet.name} inlet={inlet} /> : <Fresh />}
    </div>
  );
}

function Fresh() {
  const [start, setStart] = useState<StartPoint | null>(null);
  const [, go] = useLocation();
  if (!start) return <Start of="inlet" onStart={setStart} />;
  return (
    <PartForm thing="inlets" name="" start={start.content} onAdopted={(made) => go(pageOf("inlets", made))} />
  );
}

/** Where to send, with what, and a line that does it. */
function Address({ inlet }: { inlet: Inlet }) {
  const [, go] = useLocation();
  if (inlet.own) {
    return (
      <Panel title={inlet.name}>
        <div className="space-y-2 px-4 py-3">
          <p>
            Holtra's own messages: an outlet that is blocked, a backlog that grows old, a spool or disk that
            fills, an inlet that is silent, many dead letters. Each is a message of type <i>alarm</i>, when it
            comes and when it goes, with <code className="font-mono text-[12.5px]">data.alarm</code>,{" "}
            <code className="font-mono text-[12.5px]">data.name</code>,{" "}
            <code className="font-mono text-[12.5px]">data.state</code> (raised or cleared) and{" "}
            <code className="font-mono text-[12.5px]">data.text</code>. Make a lane from here to whatever
            reaches a person.
          </p>
          <p className="flex flex-wrap items-center gap-2 text-[13px]">
            {inlet.lanes.map((lane) => (
              <Link key={lane} href={`/lanes/${lane}`} className="text-accent underline underline-offset-2">
                {lane}
              </Link>
            ))}
            <NewLane query={{ inlet: inlet.name }} label="New lane from this inlet" />
          </p>
        </div>
      </Panel>
    );
  }
  const address = reached(inlet);
  return (
    <Panel
      title={inlet.name}
      aside={
        <>
          <Mark state={inlet.state} />
          <Switch
            thing="inlets"
            name={inlet.name}
            closed={inlet.state === "closed"}
            what="It accepts nothing until it is opened; senders are told to retry"
          />
          <Remove thing="inlets" name={inlet.name} onDone={() => go("/inlets")} />
        </>
      }
    >
      <div className="space-y-2 px-4 py-3">
        <Code label="Address" text={address} />
        {inlet.exampleCommand && (
          <Code
            label="Command"
            text={inlet.exampleCommand.replaceAll("ORIGIN", inlet.publicAddress ?? location.origin)}
          />
        )}
        {inlet.connection && <Connected status={inlet.connection} shares={inlet.shares} />}
        <p className="flex flex-wrap items-center gap-2 text-[13px]">
          <span className="text-ink-soft">Its lanes:</span>
          {inlet.lanes.length === 0 && "none yet"}
          {inlet.lanes.map((lane) => (
            <Link key={lane} href={`/lanes/${lane}`} className="text-accent underline underline-offset-2">
              {lane}
            </Link>
          ))}
          <NewLane query={{ inlet: inlet.name }} label="New lane from this inlet" />
        </p>
        <Check
          of="inlets"
          name={inlet.name}
          onAccept={(settings) => acceptSettings("inlets", inlet.name, settings)}
        />
      </div>
    </Panel>
  );
}

/** Where senders reach it, or what it reads. */
const reached = (inlet: Inlet) =>
  inlet.addressIsPath ? `${inlet.publicAddress ?? location.origin}${inlet.address}` : (inlet.address ?? "");

function Form({ inlet }: { inlet: Inlet }) {
  const [applied, setApplied] = useState<number>();
  const part = useQuery({
    queryKey: ["part", "inlets", inlet.name],
    queryFn: () => api.part("inlets", inlet.name),
  });
  if (!part.data?.content) return null;
  return (
    <PartForm
      key={part.data.mark}
      thing="inlets"
      name={inlet.name}
      part={part.data}
      start={part.data.content}
      applied={applied}
      onAdopted={(_, revision) => {
        setApplied(revision);
        part.refetch();
      }}
    />
  );
}

function One({ inlet }: { inlet: Inlet }) {
  const client = useQueryClient();
  const latest = useQuery({
    queryKey: ["inlet", inlet.name, "latest"],
    queryFn: () => api.messages({ inlet: inlet.name, limit: 1 }),
  });
  const live = useLive({
    message: (message) => {
      if (message.inlet === inlet.name) client.invalidateQueries({ queryKey: ["inlet", inlet.name] });
    },
    refresh: () => client.invalidateQueries({ queryKey: ["inlet", inlet.name] }),
  });
  const message = latest.data?.messages[0];
  if (!latest.data) return <Loading />;
  if (inlet.own)
    return (
      <div className="space-y-4">
        <Address inlet={inlet} />
        {message && <Arrival id={message.id} />}
      </div>
    );
  if (!message)
    return (
      <div className="space-y-4">
        <Address inlet={inlet} />
        <RefusedCalls inlet={inlet.name} />
        <Unheard inlet={inlet} live={live} />
        <Form inlet={inlet} />
        <Diary of="inlets" name={inlet.name} />
      </div>
    );
  return (
    <div className="space-y-4">
      <Address inlet={inlet} />
      <Arrival id={message.id} />
      <Reading inlet={inlet.name} />
      <RefusedCalls inlet={inlet.name} />
      <Fields inlet={inlet.name} />
      <Unwanted inlet={inlet.name} />
      <Form inlet={inlet} />
      <Diary of="inlets" name={inlet.name} />
    </div>
  );
}

/** Nothing can be mapped before something came: say where to send it, and wait with the person. */
function Unheard({ inlet, live }: { inlet: Inlet; live: string }) {
  return (
    <Panel title={inlet.name} aside={live === "live" ? "listening" : "reconnecting"}>
      <Empty title="No message yet">
        <p>
          {inlet.addressIsPath
            ? "Enter this address and the inlet's secret at the sender. Messages appear here as they arrive, raw."
            : "Messages appear here as they arrive, raw."}
        </p>
        <div className="mx-auto mt-3 max-w-lg text-left">
          <Code label="Address" text={reached(inlet)} />
        </div>
        <p className="mt-3 text-[13px]">Or try it by hand:</p>
        <div className="mx-auto mt-1 max-w-lg text-left">
          <Code label="Command" text={`holtra send ${inlet.name} '{"hello": 1}'`} />
        </div>
      </Empty>
    </Panel>
  );
}

function Arrival({ id }: { id: string }) {
  const trace = useQuery({
    queryKey: ["trace", id],
    queryFn: () => api.trace(id),
    placeholderData: (before) => before,
  });
  if (!trace.data) return <Loading />;
  const { message, came } = trace.data;
  return (
    <Panel
      title="The last arrival"
      aside={
        <>
          <Since instant={message.received} />
          <Link href={`/messages/${message.id}`} className="text-accent underline underline-offset-2">
            its trace
          </Link>
        </>
      }
    >
      <div className="grid gap-3 px-4 py-3 xl:grid-cols-2">
        <div>
          <p className="mb-1 text-[13px] text-ink-soft">
            as it came, {came.contentType ?? "without a content type"}
          </p>
          <Code label="Arrival" text={laidOut(came.text ?? came.base64 ?? "")} />
        </div>
        <div>
          <p className="mb-1 text-[13px] text-ink-soft">
            {message.state === "read" ? (
              `as it was read: ${message.type} of ${message.device ?? "no device"}`
            ) : (
              <Mark state={message.state} label={message.state === "duplicate" ? "duplicate" : undefined} />
            )}
          </p>
          {message.state === "read" ? (
            <>
              <Code label="Data" text={JSON.stringify(trace.data.data, null, 2)} />
              {message.reason && (
                <p className="mt-1 text-[13px] text-wait">Read with a doubt: {message.reason}</p>
              )}
            </>
          ) : (
            <p className={message.state === "duplicate" ? "" : "text-bad"}>
              {message.reason ?? "A duplicate of an earlier message."}
            </p>
          )}
        </div>
      </div>
    </Panel>
  );
}

/** What a sender says of a field beside its type and unit. */
const properties = (described: FieldSeen["described"]) =>
  Object.entries(described?.properties ?? {})
    .map(([name, value]) => `${name}: ${typeof value === "object" ? JSON.stringify(value) : value}`)
    .join("\n") || undefined;

function Fields({ inlet }: { inlet: string }) {
  const fields = useQuery({ queryKey: ["fields"], queryFn: api.fields, refetchInterval: 3000 });
  const models = useQuery({ queryKey: ["models"], queryFn: api.models });
  const unit = (field: FieldSeen) =>
    models.data?.find((model) => model.name === field.model)?.fields[field.name]?.unit ??
    field.described?.unit;
  const found = (fields.data ?? [])
    .filter((field) => field.inlet === inlet)
    .sort((a, b) => a.model.localeCompare(b.model) || a.name.localeCompare(b.name));
  return (
    <Panel title={`${plural(found.length, "field", "fields")} found so far`}>
      {found.length === 0 ? (
        <Empty title="No fields yet">Fields are listed once a message has been read.</Empty>
      ) : (
        <div className="max-h-96 overflow-auto">
          <table className="w-full border-collapse">
            <thead className="sticky top-0 bg-sheet">
              <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
                <th>Field</th>
                <th>Model</th>
                <th>Kind</th>
                <th className="text-right!">Last value</th>
                <th className="text-right!">Range seen</th>
                <th className="text-right!">Times</th>
                <th>Last seen</th>
              </tr>
            </thead>
            <tbody>
              {found.map((field) => (
                <tr
                  key={`${field.model} ${field.name}`}
                  className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1"
                >
                  <td className="font-mono text-[12px]">data.{field.name}</td>
                  <td className="text-ink-soft">{field.model || "–"}</td>
                  <td className="text-ink-soft" title={properties(field.described)}>
                    {field.described?.type ?? field.kind}
                  </td>
                  <td className="max-w-48 truncate text-right">
                    {field.kind === "number" ? figure(Number(field.last)) : String(JSON.parse(field.last))}
                    {unit(field) && <span className="ml-1 text-ink-soft">{unitWord(unit(field) ?? "")}</span>}
                  </td>
                  <td className="text-right whitespace-nowrap text-ink-soft">
                    {field.min === null || field.max === null
                      ? ""
                      : `${figure(field.min)} to ${figure(field.max)}`}
                  </td>
                  <td className="text-right">{count(field.count)}</td>
                  <td className="text-ink-soft">
                    <Time instant={field.lastSeen} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Panel>
  );
}

function Unwanted({ inlet }: { inlet: string }) {
  const unrouted = useQuery({
    queryKey: ["inlet", inlet, "unrouted"],
    queryFn: () => api.messages({ inlet, state: "unrouted", limit: 8 }),
  });
  const list = unrouted.data?.messages ?? [];
  return (
    <Panel
      title="Unrouted messages"
      aside={
        list.length > 0 && (
          <Link
            href={withQuery("/messages", { inlet, state: "unrouted" })}
            className="text-accent underline underline-offset-2"
          >
            all of it
          </Link>
        )
      }
    >
      {list.length === 0 ? (
        <p className="px-4 py-3 text-ink-soft">Every message of this inlet was taken by some lane.</p>
      ) : (
        <ul>
          {list.map((message) => (
            <li
              key={message.id}
              className="flex gap-3 border-b border-rule px-4 py-1 text-[13px] last:border-0"
            >
              <Link href={`/messages/${message.id}`} className="text-accent underline underline-offset-2">
                <Time instant={message.received} />
              </Link>
              <span className="w-24 font-mono text-[12px]">{message.device}</span>
              <span className="w-16 text-ink-soft">{message.type}</span>
              <span className="truncate font-mono text-[12px] text-ink-soft">{message.preview}</span>
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}
