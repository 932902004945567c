import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Tabs } from "radix-ui";
import { type ReactNode, useState } from "react";
import { Link } from "wouter";
import { type Attempt, api, type LaneTrace, Problem, type Trace, withQuery } from "../api";
import { useLive } from "../live";
import { byLane } from "../message-list";
import { requestText } from "../request-text";
import { Button } from "../ui/button";
import { Code } from "../ui/code";
import { Mark, Simulated } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { ExactTime, Since, Time } from "../ui/time";
import { count, laidOut, plural, size, took, unitWord } from "../words";
import { NewLane } from "./lanes";

export function TracePage({ id }: { id: string }) {
  const client = useQueryClient();
  const trace = useQuery({ queryKey: ["trace", id], queryFn: () => api.trace(id) });
  useLive({
    delivery: (delivery) => {
      if (delivery.message === id) client.invalidateQueries({ queryKey: ["trace", id] });
    },
    refresh: () => client.invalidateQueries({ queryKey: ["trace", id] }),
  });
  if (trace.isError) {
    return trace.error instanceof Problem && trace.error.status < 500 ? (
      <Panel>
        <Empty title="No such message">
          {trace.error.message}{" "}
          <Link href="/messages" className="underline">
            All messages
          </Link>
        </Empty>
      </Panel>
    ) : (
      <Failure error={trace.error} />
    );
  }
  if (!trace.data) return <Loading />;
  const { message } = trace.data;
  return (
    <div className="space-y-4">
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <h1 className="font-mono text-[18px] font-medium">{message.id}</h1>
        {message.state !== "read" && (
          <Mark state={message.state} label={message.state === "duplicate" ? "duplicate" : undefined} />
        )}
        {message.state === "read" && message.lanes.length === 0 && <Mark state="unrouted" />}
        {message.simulated && <Simulated />}
        {message.state === "read" && (
          <span className="ml-auto self-center">
            <NewLane
              query={{ inlet: message.inlet, message: message.id }}
              label="New lane from this message"
            />
          </span>
        )}
        <p className="w-full text-ink-soft">
          {message.state === "whole"
            ? `${plural(trace.data.parts.length, "message", "messages")} in one arrival`
            : `${message.type ?? "something"} of `}
          {message.state === "whole" ? null : message.device ? (
            <Link
              href={`/devices/${encodeURIComponent(message.device)}`}
              className="font-mono text-[13px] underline underline-offset-2"
            >
              {message.device}
            </Link>
          ) : (
            "no known device"
          )}
          , came <Time instant={message.received} /> by {message.inlet}
        </p>
      </div>
      <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,5fr)_minmax(0,7fr)]">
        <div className="space-y-4">
          <Came trace={trace.data} />
          {message.state !== "whole" && <Read trace={trace.data} />}
        </div>
        {message.state === "whole" ? <Parts trace={trace.data} /> : <Lanes trace={trace.data} />}
      </div>
    </div>
  );
}

function Came({ trace }: { trace: Trace }) {
  const { came, message } = trace;
  return (
    <Panel title="As received" aside={<span>{size(message.bytes)}</span>}>
      <div className="px-4 py-3">
        <Facts
          facts={[
            ["received", <ExactTime key="t" instant={message.received} />],
            ["from", came.remote],
            [
              "to",
              <span key="p" className="font-mono text-[12px] break-all">
                {came.address || "nowhere in particular: Holtra made it"}
              </span>,
            ],
            ["content type", came.contentType ?? "none"],
          ]}
        />
        <Views
          views={[
            ["body", <Code key="b" label="Body as received" text={came.text ?? came.base64 ?? ""} />],
            ["transport", <Code key="h" label="Transport" text={JSON.stringify(came.fields, null, 2)} />],
          ]}
        />
        <a
          href={`/api/v1/messages/${message.id}/body`}
          className="mt-2 inline-block text-[13px] text-accent underline underline-offset-2"
        >
          Download the bytes
        </a>
      </div>
    </Panel>
  );
}

function Read({ trace }: { trace: Trace }) {
  const { message } = trace;
  if (message.state === "duplicate") {
    return (
      <Panel title="A duplicate" aside={<Mark state="duplicate" label="duplicate" />}>
        <p className="px-4 py-3">
          It is the same as{" "}
          <Link href={`/messages/${message.duplicateOf}`} className="font-mono text-[12px] underline">
            {message.duplicateOf}
          </Link>
          , which came before it. It is kept, and delivered nowhere.
        </p>
      </Panel>
    );
  }
  if (message.state === "deferred") {
    return (
      <Panel title="Waiting to be read" aside={<Mark state="deferred" />}>
        <div className="px-4 py-3">
          <p>{message.reason}</p>
          <p className="mt-1 text-[13px] text-ink-soft">
            It is kept, and read by itself once its codec can be run, in the order its device sent it. Nothing
            needs to be done, unless the codec itself is at fault: then mend the codec.
          </p>
        </div>
      </Panel>
    );
  }
  if (message.state !== "read" && message.state !== "made" && message.state !== "trial") {
    return (
      <Panel title="Unreadable" aside={<Mark state={message.state} />}>
        <div className="px-4 py-3">
          <p className="text-bad">{message.reason}</p>
          <p className="mt-1 text-[13px] text-ink-soft">
            It is kept as it came, and its sender was told so. No lane looked at it.{" "}
            {message.state === "unclaimed"
              ? "Claim its device, and it is read again."
              : "Mend the codec or the inlet, and read it again."}
          </p>
          {message.state === "unclaimed" && message.device && <Claim device={message.device} />}
        </div>
      </Panel>
    );
  }
  return (
    <Panel title="As read" aside={`setup revision ${trace.setupRevision}`}>
      <div className="px-4 py-3">
        <Facts
          facts={[
            [
              "device",
              <span key="d" className="font-mono text-[13px]">
                {message.device ?? "–"}
              </span>,
            ],
            ["event time", message.eventTime ? <ExactTime key="e" instant={message.eventTime} /> : "–"],
            ["type", message.type ?? "–"],
            ...(trace.codec === null ? [] : [["decoded by", trace.codec] as [string, ReactNode]]),
            ...(message.sequence === null
              ? []
              : [["number", count(message.sequence)] as [string, ReactNode]]),
            ...(trace.whole === null
              ? []
              : [
                  [
                    "part of",
                    <Link
                      key="w"
                      href={`/messages/${trace.whole}`}
                      className="font-mono text-[12px] underline underline-offset-2"
                    >
                      {trace.whole}
                    </Link>,
                  ] as [string, ReactNode],
                ]),
            ...(trace.madeOf.length === 0
              ? []
              : [["made of", <Others key="m" ids={trace.madeOf} />] as [string, ReactNode]]),
            ...(trace.splitInto.length === 0
              ? []
              : [["split into", <Others key="u" ids={trace.splitInto} />] as [string, ReactNode]]),
            ...(trace.alarms.length === 0
              ? []
              : [
                  [
                    trace.alarms[0]?.cause === message.id ? "raised" : "updates",
                    <span key="a" className="space-x-3">
                      {trace.alarms.map((alarm) => (
                        <Link
                          key={alarm.number}
                          href={`/alarms/${alarm.number}`}
                          className="text-accent hover:underline"
                        >
                          alarm {alarm.number} of {alarm.lookout}, {alarm.state}
                        </Link>
                      ))}
                    </span>,
                  ] as [string, ReactNode],
                ]),
            ...(trace.duplicates.length === 0
              ? []
              : [["duplicates", <Duplicates key="c" trace={trace} />] as [string, ReactNode]]),
          ]}
        />
        {message.reason && (
          <p className="mb-2 rounded bg-wait-wash px-2.5 py-1.5 text-[13px] text-wait">{message.reason}</p>
        )}
        <Views
          views={[
            ["data", <Code key="d" label="data" text={withUnits(trace.data, trace.units)} />],
            ["device", <Code key="v" label="device" text={JSON.stringify(trace.device, null, 2)} />],
            ["meta", <Code key="m" label="meta" text={JSON.stringify(trace.meta, null, 2)} />],
          ]}
        />
      </div>
    </Panel>
  );
}

/** The messages that a lane made this one of, or made of this one. */
/** An arrival of several messages: each with what became of it. */
function Parts({ trace }: { trace: Trace }) {
  return (
    <Panel
      title={plural(trace.parts.length, "message in it", "messages in it")}
      aside={`setup revision ${trace.setupRevision}`}
    >
      {trace.parts.length === 0 && <Empty title="Its list of parts is empty" />}
      <ul>
        {trace.parts.map((part, number) => (
          <li
            key={part.id}
            className="flex flex-wrap items-center gap-3 border-b border-rule px-4 py-1.5 last:border-0"
          >
            <span className="w-8 text-right text-ink-soft">{number + 1}</span>
            <Link
              href={`/messages/${part.id}`}
              className="font-mono text-[12.5px] text-accent hover:underline"
            >
              {part.device ?? part.id}
            </Link>
            {part.state !== "read" && <Mark state={part.state} />}
            {byLane(part.lanes).map((lane) => (
              <Mark key={lane.lane} state={lane.state} label={lane.lane} />
            ))}
            <span className="min-w-0 truncate text-[13px] text-ink-soft">{part.reason ?? part.preview}</span>
          </li>
        ))}
      </ul>
    </Panel>
  );
}

function Others({ ids }: { ids: string[] }) {
  return (
    <details>
      <summary className="cursor-pointer">{plural(ids.length, "message", "messages")}</summary>
      <ul>
        {ids.map((id) => (
          <li key={id}>
            <Link href={`/messages/${id}`} className="font-mono text-[12px] underline underline-offset-2">
              {id}
            </Link>
          </li>
        ))}
      </ul>
    </details>
  );
}

/** The duplicates that came after, and by which gateways. */
function Duplicates({ trace }: { trace: Trace }) {
  return (
    <ul>
      {trace.duplicates.map((duplicate) => (
        <li key={duplicate.id}>
          <Link href={`/messages/${duplicate.id}`} className="underline underline-offset-2">
            <Time instant={duplicate.received} />
          </Link>
          {duplicate.gateway && <span className="text-ink-soft"> by {duplicate.gateway}</span>}
        </li>
      ))}
    </ul>
  );
}

function Claim({ device }: { device: string }) {
  const client = useQueryClient();
  const [done, setDone] = useState("");
  const claim = async () => {
    const nothing = { model: null, facts: {}, points: {}, zone: null, installed: null, silentAfter: null };
    await api.claim(device, nothing);
    setDone(`${device} is claimed; its messages are being read again.`);
    setTimeout(() => client.invalidateQueries({ queryKey: ["trace"] }), 1000);
  };
  return (
    <div className="mt-3 flex items-center gap-3">
      <Button look="main" onClick={claim}>
        Claim {device}
      </Button>
      <span role="status" className="text-[13px] text-good">
        {done}
      </span>
    </div>
  );
}

/** JSON laid out, with the unit of each field that has one behind its value. */
function withUnits(data: unknown, units: Record<string, string>): string {
  return JSON.stringify(data, null, 2)
    .split("\n")
    .map((line) => {
      const name = line.match(/^ {2}"([^"]+)": -?[\d.]/)?.[1];
      const unit = name === undefined ? undefined : units[name];
      return unit === undefined ? line : `${line}  ${unitWord(unit)}`;
    })
    .join("\n");
}

function Lanes({ trace }: { trace: Trace }) {
  const took = trace.lanes.filter((lane) => lane.picked);
  const not = trace.lanes.filter((lane) => !lane.picked);
  if (trace.message.state !== "read" && trace.message.state !== "trial") return null;
  return (
    <div className="space-y-4">
      {trace.lanes.length === 0 && (
        <Panel title="Lanes">
          <Empty title="No lane takes from this inlet">A setup names the inlets of each lane.</Empty>
        </Panel>
      )}
      {took.map((lane) => (
        <Taken key={lane.lane + lane.point} lane={lane} />
      ))}
      {trace.trials.length > 0 && (
        <Panel title="Trials" aside="sent by a person to see the answer; they change no delivery">
          <ol>
            {trace.trials.map((trial) => (
              <AttemptLine
                key={trial.at}
                attempt={trial}
                open
                title={`Trial on ${trial.lane}${trial.point ? `, point ${trial.point}` : ""}`}
              />
            ))}
          </ol>
        </Panel>
      )}
      {not.length > 0 && (
        <Panel title={took.length === 0 ? "No lane took it" : "Lanes that did not take it"}>
          <ul>
            {not.map((lane) => (
              <li key={lane.lane} className="border-b border-rule px-4 py-2 last:border-0">
                <span className="font-semibold">{lane.lane}</span>
                <span className="text-ink-soft"> → {lane.outlet}</span>
                <p className="text-[13px]">
                  <Words text={lane.whyNot ?? "The reason is no longer known."} />
                </p>
              </li>
            ))}
          </ul>
        </Panel>
      )}
    </div>
  );
}

function Taken({ lane }: { lane: LaneTrace }) {
  return (
    <Panel
      title={
        <>
          {lane.lane} {lane.point && <span className="font-normal">point {lane.point} </span>}
          <span className="font-normal text-ink-soft">→ {lane.outlet}</span>
        </>
      }
      aside={lane.state && <Mark state={lane.state} />}
    >
      <div className="px-4 py-3">
        {lane.pick ? (
          <p className="text-[13px] text-ink-soft">
            Picked, because <code className="font-mono text-[12px] text-ink">{lane.pick}</code>
            {lane.values && `: ${lane.values}`}
          </p>
        ) : (
          <p className="text-[13px] text-ink-soft">Picked: this lane takes every message of its inlets.</p>
        )}
        {lane.state === "waiting" && (
          <p className="mt-1 text-wait">
            {lane.reason ? `Waits: ${lane.reason}` : "Waits its turn"}
            {lane.at && (
              <>
                ; next try <Since instant={lane.at} />
              </>
            )}
          </p>
        )}
        {lane.state === "dead" && (
          <p className="mt-1 text-bad">
            Dead: {lane.reason}{" "}
            <Link href={withQuery("/dead", { lane: lane.lane })} className="underline underline-offset-2">
              Dead letters of this lane
            </Link>
          </p>
        )}
        {lane.state === "dropped" && <p className="mt-1 text-ink-soft">Dropped: {lane.reason}</p>}
        {lane.state === "held back" && (
          <p className="mt-1 text-ink-soft">Held back by the lane’s memory: {lane.reason}</p>
        )}
        {lane.state === "remembered" && (
          <p className="mt-1 text-wait">Waiting in the lane’s memory: its window is still open.</p>
        )}
        {lane.state === "merged" && lane.into && (
          <p className="mt-1 text-ink-soft">
            Part of{" "}
            <Link href={`/messages/${lane.into}`} className="font-mono text-[12.5px] text-accent underline">
              {lane.into}
            </Link>
            , which the lane makes of it and others.
          </p>
        )}
        {lane.state === "merged" && !lane.into && (
          <p className="mt-1 text-wait">Part of what the lane is still to make of it and others.</p>
        )}
      </div>
      <ol>
        {lane.attempts.map((attempt, at) => (
          <AttemptLine
            key={`${attempt.number}-${attempt.at}`}
            attempt={attempt}
            open={at === lane.attempts.length - 1}
          />
        ))}
      </ol>
    </Panel>
  );
}

function AttemptLine({ attempt, open, title }: { attempt: Attempt; open: boolean; title?: string }) {
  const { request } = attempt;
  return (
    <li className="border-t border-rule">
      <details open={open}>
        <summary className="flex cursor-pointer flex-wrap items-center gap-x-3 gap-y-1 px-4 py-2 hover:bg-inset">
          <span className="font-medium">{title ?? `Attempt ${attempt.number}`}</span>
          <span className="text-ink-soft">
            <Time instant={attempt.at} />
          </span>
          <Mark state={attempt.verdict} />
          {attempt.code !== null && <span className="font-mono text-[13px]">{attempt.code}</span>}
          <span className="text-ink-soft">{took(attempt.micros)}</span>
          {attempt.nextTry && (
            <span className="ml-auto text-[13px] text-ink-soft">
              then again <Time instant={attempt.nextTry} />
            </span>
          )}
        </summary>
        <div className="space-y-2 px-4 pb-3">
          {attempt.reason && <p className="text-wait">{attempt.reason}</p>}
          {request.batch && request.batch.messages > 1 && (
            <p className="text-[13px] text-ink-soft">
              Number {request.batch.number} of {request.batch.messages} messages in one request,{" "}
              <span className="font-mono">{request.batch.key}</span>; below, its own part of the body.
            </p>
          )}
          <Code label="Request" text={requestText(request.summary, request.fields, attempt.body ?? "")} />
          {attempt.answer !== null && attempt.answer !== "" && (
            <>
              <p className="text-[12px] text-ink-faint">answered</p>
              <Code label="Answer" text={laidOut(attempt.answer)} />
            </>
          )}
          <p className="text-[12px] text-ink-faint">
            shaped by setup revision {attempt.setupRevision}, sent by outlet {attempt.outlet}
          </p>
        </div>
      </details>
    </li>
  );
}

function Facts({ facts }: { facts: [string, ReactNode][] }) {
  return (
    <dl className="mb-3 grid grid-cols-[7rem_1fr] gap-y-0.5">
      {facts.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-ink-faint">{name}</dt>
          <dd>{value}</dd>
        </div>
      ))}
    </dl>
  );
}

function Views({ views }: { views: [string, ReactNode][] }) {
  return (
    <Tabs.Root defaultValue={views[0]?.[0]}>
      <Tabs.List className="mb-1.5 flex gap-1" aria-label="Views">
        {views.map(([name]) => (
          <Tabs.Trigger
            key={name}
            value={name}
            className="rounded px-2 py-0.5 text-[13px] text-ink-soft data-[state=active]:bg-accent-wash data-[state=active]:font-medium data-[state=active]:text-accent"
          >
            {name}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      {views.map(([name, content]) => (
        <Tabs.Content key={name} value={name}>
          {content}
        </Tabs.Content>
      ))}
    </Tabs.Root>
  );
}

/** A sentence in which what stands between backticks is set in the mono face. */
function Words({ text }: { text: string }) {
  let at = 0;
  return text.split("`").map((part, index) => {
    at += part.length + 1;
    return index % 2 === 1 ? (
      <code key={at} className="font-mono text-[12px]">
        {part}
      </code>
    ) : (
      part
    );
  });
}
