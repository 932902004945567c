import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useCallback, useEffect, useRef, useState } from "react";
import { useLocation, useSearchParams } from "wouter";
import { api, type Message } from "../api";
import { useLive } from "../live";
import {
  byLane,
  type Filter,
  fieldLine,
  fits,
  isSearch,
  localInput,
  searched,
  withDelivery,
} from "../message-list";
import { OnThisNode } from "../parts/on-this-node";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { Mark, Simulated } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Time } from "../ui/time";
import { count, size } from "../words";

const STATES = [
  "delivered",
  "waiting",
  "dead",
  "unrouted",
  "unreadable",
  "unclaimed",
  "deferred",
  "duplicate",
  "whole",
];
const TYPES = ["reading", "status", "fault", "event", "alarm", "result"];
const SHOWN_LIVE = 300;

export function MessagesPage() {
  const [parameters, setParameters] = useSearchParams();
  const filter: Filter = {
    inlet: parameters.get("inlet") ?? "",
    lane: parameters.get("lane") ?? "",
    device: parameters.get("device") ?? "",
    type: parameters.get("type") ?? "",
    state: parameters.get("state") ?? "",
    contains: parameters.get("contains") ?? "",
    from: parameters.get("from") ?? "",
    to: parameters.get("to") ?? "",
  };
  const change = (name: keyof Filter, value: string) =>
    setParameters((before) => {
      const next = new URLSearchParams(before);
      if (value === "") next.delete(name);
      else next.set(name, value);
      return next;
    });
  const overview = useQuery({ queryKey: ["overview"], queryFn: api.overview });
  const inlets = useQuery({ queryKey: ["inlets"], queryFn: api.inlets });
  const filtered = Object.values(filter).some((value) => value !== "");
  return (
    <Panel
      label="Messages"
      title="Messages"
      aside={
        <div className="flex flex-wrap items-center gap-2">
          <Choice
            label="inlet"
            value={filter.inlet}
            options={inlets.data?.map((one) => one.name) ?? []}
            onChange={(value) => change("inlet", value)}
          />
          <Choice
            label="lane"
            value={filter.lane}
            options={overview.data?.lanes.map((one) => one.lane).sort() ?? []}
            onChange={(value) => change("lane", value)}
          />
          <Choice
            label="state"
            value={filter.state}
            options={STATES}
            onChange={(value) => change("state", value)}
          />
          <Choice
            label="type"
            value={filter.type}
            options={TYPES}
            onChange={(value) => change("type", value)}
          />
          <TextFilter
            label="Device key, then Enter"
            placeholder="device"
            value={filter.device}
            onChange={(value) => change("device", value)}
          />
          <TextFilter
            label="Text in the content, then Enter"
            placeholder="content contains"
            value={filter.contains}
            onChange={(value) => change("contains", value)}
          />
          <TimeFilter label="From" value={filter.from} onChange={(value) => change("from", value)} />
          <TimeFilter label="To" value={filter.to} onChange={(value) => change("to", value)} />
          {filtered && <Button onClick={() => setParameters(new URLSearchParams())}>Show all</Button>}
        </div>
      }
    >
      <List key={JSON.stringify(filter)} filter={filter} filtered={filtered} />
    </Panel>
  );
}

/** An end of the span that is looked at, in the viewer's time zone. */
function TimeFilter({
  label,
  value,
  onChange,
}: {
  label: string;
  /** An instant; empty for none. */
  value: string;
  onChange: (value: string) => void;
}) {
  return (
    <label className="inline-flex items-center gap-1.5 text-[13px] text-ink-soft">
      {label}
      <input
        type="datetime-local"
        value={value === "" ? "" : localInput(new Date(value))}
        onChange={(event) =>
          onChange(event.target.value === "" ? "" : new Date(event.target.value).toISOString())
        }
        className={`h-8 rounded border bg-sheet px-2 text-[13px] ${value === "" ? "border-rule" : "border-accent font-medium text-accent"}`}
      />
    </label>
  );
}

function TextFilter({
  label,
  placeholder,
  value,
  onChange,
}: {
  label: string;
  placeholder: string;
  value: string;
  onChange: (value: string) => void;
}) {
  const [typed, setTyped] = useState(value);
  useEffect(() => setTyped(value), [value]);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onChange(typed.trim());
      }}
    >
      <input
        aria-label={label}
        placeholder={placeholder}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => typed.trim() !== value && onChange(typed.trim())}
        className={`h-8 w-36 rounded border bg-sheet px-2.5 text-[13px] placeholder:text-ink-soft ${value === "" ? "border-rule" : "border-accent font-medium text-accent"}`}
      />
    </form>
  );
}

function List({ filter, filtered }: { filter: Filter; filtered: boolean }) {
  const pages = useInfiniteQuery({
    queryKey: ["messages", filter],
    queryFn: ({ pageParam }) => api.messages({ ...filter, after: pageParam, limit: 100 }),
    initialPageParam: null as string | null,
    getNextPageParam: (last) => last.next,
    refetchOnWindowFocus: false,
    gcTime: 0,
  });
  const [arrived, setArrived] = useState<Message[]>([]);
  const [deliveries, setDeliveries] = useState<Map<string, Message["lanes"]>>(new Map());
  const [paused, setPaused] = useState(false);
  const [held, setHeld] = useState<Message[]>([]);
  const [missed, setMissed] = useState(0);
  const searches = isSearch(filter);
  const live = useLive({
    message: (message) => {
      if (searches || !fits(message, filter)) return;
      if (paused) setHeld((before) => [message, ...before].slice(0, SHOWN_LIVE));
      else setArrived((before) => [message, ...before].slice(0, SHOWN_LIVE));
    },
    delivery: (delivery) => setDeliveries((before) => withDelivery(before, delivery)),
    missed: (more) => setMissed((before) => before + more),
    refresh: () => {
      if (!paused) pages.refetch();
    },
  });
  const resume = () => {
    setArrived((before) => [...held, ...before].slice(0, SHOWN_LIVE));
    setHeld([]);
    setPaused(false);
  };

  if (pages.isError) return <Failure error={pages.error} />;
  if (!pages.data) return <Loading />;
  const stored = pages.data.pages.flatMap((page) => page.messages);
  const known = new Set(arrived.map((message) => message.id));
  const all = [...arrived, ...stored.filter((message) => !known.has(message.id))].map((message) => ({
    ...message,
    lanes: message.lanes.map(
      (lane) => deliveries.get(message.id)?.find((one) => one.lane === lane.lane) ?? lane,
    ),
  }));
  return (
    <>
      <div
        className="flex items-center gap-3 border-b border-rule px-4 py-1.5 text-[13px] text-ink-soft"
        aria-live="polite"
      >
        <span className="inline-flex items-center gap-1.5">
          <span
            aria-hidden="true"
            className={`size-2 rounded-full ${live === "live" && !paused && !searches ? "bg-good" : "border border-wait"}`}
          />
          {searches
            ? searched(filter)
            : live === "reconnecting"
              ? "reconnecting…"
              : paused
                ? `paused, ${count(held.length)} more came`
                : "live"}
          <OnThisNode />
        </span>
        {!searches && (
          <button
            type="button"
            onClick={() => (paused ? resume() : setPaused(true))}
            className="underline underline-offset-2 hover:text-ink"
          >
            {paused ? "resume" : "pause"}
          </button>
        )}
        {missed > 0 && <span className="text-wait">{count(missed)} events were too many to show</span>}
        <span className="ml-auto hidden lg:inline">
          <kbd className="font-mono">j</kbd> <kbd className="font-mono">k</kbd> move,{" "}
          <kbd className="font-mono">Enter</kbd> opens
        </span>
      </div>
      {all.length === 0 ? <Nothing filtered={filtered} /> : <Rows messages={all} fresh={known} />}
      {pages.hasNextPage && (
        <div className="border-t border-rule p-3 text-center">
          <Button onClick={() => pages.fetchNextPage()} disabled={pages.isFetchingNextPage}>
            Older messages
          </Button>
        </div>
      )}
    </>
  );
}

const ASKED_AT_ONCE = 25;
const LOOK_EVERY = 300;

/** The fields of the messages of a list, asked for by and by: a list may grow faster than messages can be read again. */
function useFields(messages: Message[]): Map<string, string> {
  const [known, setKnown] = useState<Map<string, string>>(new Map());
  const shown = useRef(messages);
  shown.current = messages;
  useEffect(() => {
    const asked = new Set<string>();
    let going = true;
    const look = async () => {
      const ids = shown.current
        .filter((one) => (one.state === "read" || one.state === "made") && !asked.has(one.id))
        .slice(0, ASKED_AT_ONCE)
        .map((one) => one.id);
      if (ids.length > 0) {
        for (const id of ids) asked.add(id);
        try {
          const found = await api.fieldsOf(ids);
          if (going)
            setKnown((before) => {
              const next = new Map(before);
              for (const one of found) next.set(one.id, fieldLine(one.fields));
              return next;
            });
        } catch {
          for (const id of ids) asked.delete(id); // the next look asks again; until then the bytes are shown
        }
      }
      if (going) timer = setTimeout(look, LOOK_EVERY);
    };
    let timer = setTimeout(look, 0);
    return () => {
      going = false;
      clearTimeout(timer);
    };
  }, []);
  return known;
}

function Nothing({ filtered }: { filtered: boolean }) {
  return filtered ? (
    <Empty title="No message matches">
      Choose other filters, or show all. New ones appear by themselves.
    </Empty>
  ) : (
    <Empty title="No messages yet">
      Point a sender at an inlet's address, or try one by hand:{" "}
      <code className="font-mono text-[13px]">{"holtra send INLET '{\"hello\": 1}'"}</code>. It appears here
      at once.
    </Empty>
  );
}

function Rows({ messages, fresh }: { messages: Message[]; fresh: Set<string> }) {
  const fields = useFields(messages);
  const [, go] = useLocation();
  const body = useRef<HTMLTableSectionElement>(null);
  const move = useCallback((step: number) => {
    const rows = [...(body.current?.querySelectorAll("tr") ?? [])];
    const at = rows.indexOf(document.activeElement as HTMLTableRowElement);
    rows[Math.max(0, Math.min(rows.length - 1, at + step))]?.focus();
  }, []);
  useEffect(() => {
    const onKey = (event: globalThis.KeyboardEvent) => {
      if (event.target instanceof HTMLInputElement || event.metaKey || event.ctrlKey || event.altKey) return;
      if (event.key === "j") move(1);
      if (event.key === "k") move(-1);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [move]);
  const onKeyDown = (event: KeyboardEvent, id: string) => {
    if (event.key === "Enter") go(`/messages/${id}`);
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      move(event.key === "ArrowDown" ? 1 : -1);
    }
  };
  return (
    <table className="w-full min-w-[56rem] table-fixed border-collapse">
      <thead>
        <tr className="border-b border-rule [&>th]:px-3 [&>th]:py-1.5 [&>th:first-child]:pl-4">
          <th className="w-24">Received</th>
          <th className="w-36">Inlet</th>
          <th className="w-44">Device</th>
          <th className="w-20">Type</th>
          <th>Fields</th>
          <th className="w-16 text-right!">Size</th>
          <th className="w-64">Outcome</th>
        </tr>
      </thead>
      <tbody ref={body}>
        {messages.map((message) => (
          <tr
            key={message.id}
            tabIndex={0}
            onClick={() => go(`/messages/${message.id}`)}
            onKeyDown={(event) => onKeyDown(event, message.id)}
            className={`cursor-pointer border-b border-rule align-top last:border-0 hover:bg-inset focus-visible:-outline-offset-2 [&>td]:px-3 [&>td]:py-1.5 [&>td:first-child]:pl-4 ${fresh.has(message.id) ? "arriving" : ""}`}
          >
            <td className="text-ink-soft">
              <Time instant={message.received} />
            </td>
            <td className="truncate">{message.inlet}</td>
            <td>
              <div className="flex items-center gap-2">
                <span className="truncate font-mono text-[12.5px]" title={message.device ?? undefined}>
                  {message.device ?? "–"}
                </span>
                {message.simulated && <Simulated />}
              </div>
            </td>
            <td className="text-ink-soft">{message.type ?? "–"}</td>
            <td
              className="truncate font-mono text-[12px] leading-[21px] text-ink-soft"
              title={fields.get(message.id) || message.preview}
            >
              {fields.get(message.id) || message.preview}
            </td>
            <td className="text-right text-[13px] text-ink-soft">{size(message.bytes)}</td>
            <td>
              <Fates message={message} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Fates({ message }: { message: Message }) {
  if (message.state === "duplicate")
    return <Mark state="duplicate" label="duplicate" title="Duplicate of an earlier message" />;
  if (message.state !== "read" && message.state !== "made")
    return <Mark state={message.state} title={message.reason ?? undefined} />;
  if (message.lanes.length === 0) return <Mark state="unrouted" title="No lane picked it" />;
  return (
    <span className="flex flex-wrap gap-1">
      {byLane(message.lanes).map((lane) => (
        <Mark
          key={`${lane.lane} ${lane.state}`}
          state={lane.state}
          label={lane.count > 1 ? `${lane.lane} ×${lane.count}` : lane.lane}
          title={`${lane.state}${lane.attempts > 1 ? ` after ${lane.attempts} attempts` : ""}`}
        />
      ))}
    </span>
  );
}
