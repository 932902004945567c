import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { api } from "../api";
import { delivery, type Job, type ReplayPreview, type ReplayTerms } from "../delivery";
import { usePages } from "../pages-of-list";
import { Button } from "../ui/button";
import { Field, Labelled } from "../ui/field";
import { Mark } from "../ui/mark";
import { More } from "../ui/more";
import { Empty, Failure, Panel } from "../ui/panel";
import { Since, Time } from "../ui/time";
import { count, local, plural } from "../words";

const words: Record<Job["what"], string> = {
  retry: "dead letters tried again",
  drop: "dead letters dropped",
  replay: "messages delivered again",
  look: "incident looked into",
  mend: "incident mended",
  introduce: "devices introduced at an outlet",
  "compare-introduced": "what we made at an outlet compared",
  "remove-introduced": "what we made at an outlet removed",
};

/** Jobs, and the form of a replay. */
export function JobsPage() {
  const pages = usePages(["jobs", "pages"], delivery.jobs, 1000);
  const all = pages.data?.pages.flatMap((page) => page.jobs);
  if (pages.isError && !all) return <Failure error={pages.error} />;
  return (
    <div className="space-y-4">
      <Replay />
      <Panel title="Jobs" label="Jobs">
        {all?.length === 0 && (
          <Empty title="No jobs yet">
            Replays and actions on many dead letters are listed here with their progress. Dropped letters can
            be restored for ten minutes.
          </Empty>
        )}
        {all && all.length > 0 && <List all={all} />}
        <More pages={pages} />
      </Panel>
    </div>
  );
}

function List({ all }: { all: Job[] }) {
  return (
    <table className="w-full border-collapse">
      <thead>
        <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
          <th>Name</th>
          <th>What</th>
          <th>Progress</th>
          <th>Started</th>
          <th>By</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {all.map((one) => (
          <Row key={one.id} one={one} />
        ))}
      </tbody>
    </table>
  );
}

function Row({ one }: { one: Job }) {
  const client = useQueryClient();
  const refresh = () => client.invalidateQueries();
  const cancel = useMutation({ mutationFn: () => delivery.cancel(one.id), onSuccess: refresh });
  const undo = useMutation({ mutationFn: () => delivery.undo(one.id), onSuccess: refresh });
  const undoable = one.undoUntil && !one.undone && Date.parse(one.undoUntil) > Date.now();
  return (
    <tr className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1.5">
      <td className="font-mono text-[12.5px]">{one.name}</td>
      <td>
        {words[one.what]}
        <span className="block text-[12px] text-ink-faint">{terms(one)}</span>
      </td>
      <td className="w-72">
        <span className="flex items-center gap-2">
          <Mark state={one.state} />
          {count(one.done)}
          {one.expected !== null && ` of ${count(one.expected)}`}
        </span>
        {one.state === "running" && one.expected !== null && one.expected > 0 && (
          <progress
            className="mt-1 h-1.5 w-full accent-(--accent)"
            value={one.done}
            max={one.expected}
            aria-label={`Progress of ${one.name}`}
          />
        )}
        {one.note && <span className="block text-[12px] text-ink-soft">{one.note}</span>}
      </td>
      <td className="text-ink-soft">
        <Time instant={one.begun} />
      </td>
      <td className="text-ink-soft">{one.by}</td>
      <td className="text-right whitespace-nowrap">
        {one.state === "running" && <Button onClick={() => cancel.mutate()}>Stop</Button>}
        {undoable && one.undoUntil && (
          <span className="inline-flex items-center gap-2 text-[12px] text-ink-soft">
            can be taken back, ends <Since instant={one.undoUntil} />
            <Button onClick={() => undo.mutate()} aria-label={`Take back ${one.name}`}>
              Take back
            </Button>
          </span>
        )}
      </td>
    </tr>
  );
}

/** The terms, in words. */
function terms(one: Job): string {
  const { dead, outlet, lane, device, where, from, to, perSecond, sameKey, number, about } =
    one.terms as Record<string, unknown>;
  const chosen = (dead ?? {}) as Record<string, unknown>;
  const parts = [
    number && `incident ${number}, ${about}`,
    chosen.all === true && "all",
    (lane ?? chosen.lane) && `lane ${lane ?? chosen.lane}`,
    chosen.cause && `cause ${chosen.cause}`,
    (device ?? chosen.device) && `device ${device ?? chosen.device}`,
    Array.isArray(chosen.deliveries) && plural(chosen.deliveries.length, "letter", "letters"),
    outlet && `${one.what.endsWith("introduced") || one.what === "introduce" ? "outlet" : "to"} ${outlet}`,
    where && `where ${where}`,
    from &&
      to &&
      `from ${new Date(String(from)).toLocaleString()} to ${new Date(String(to)).toLocaleString()}`,
    perSecond && `${perSecond} a second`,
    sameKey === true && "under the first key",
  ];
  return parts.filter(Boolean).join(", ");
}

const hourAgo = () => local(new Date(Date.now() - 3_600_000));

const select = "h-8 w-full rounded border border-rule bg-sheet px-2 text-[13px]";

function Replay() {
  const client = useQueryClient();
  const lanes = useQuery({ queryKey: ["overview"], queryFn: api.overview });
  const outlets = useQuery({ queryKey: ["outlets"], queryFn: api.outlets });
  const [lane, setLane] = useState("");
  const [outlet, setOutlet] = useState("");
  const [from, setFrom] = useState(hourAgo);
  const [to, setTo] = useState("");
  const [device, setDevice] = useState("");
  const [where, setWhere] = useState("");
  const [pace, setPace] = useState("");
  const [sameKey, setSameKey] = useState(false);
  const preview = useMutation({ mutationFn: () => delivery.preview(asked()) });
  const replay = useMutation({
    mutationFn: () => delivery.replay(asked()),
    onSuccess: () => {
      preview.reset();
      client.invalidateQueries({ queryKey: ["jobs"] });
    },
  });
  const asked = (): ReplayTerms => ({
    lane,
    outlet: outlet || null,
    from: new Date(from).toISOString(),
    to: to ? new Date(to).toISOString() : null,
    device: device || null,
    where: where || null,
    sameKey,
    perSecond: pace ? Number(pace) : null,
  });
  const change =
    <T,>(set: (value: T) => void) =>
    (value: T) => {
      preview.reset();
      set(value);
    };
  const error = preview.error ?? replay.error;
  return (
    <Panel title="Replay" label="Replay">
      <form
        className="space-y-3 px-4 py-3"
        onSubmit={(event) => {
          event.preventDefault();
          preview.mutate();
        }}
      >
        <p className="text-[13px] text-ink-soft">
          Delivers stored messages again with the lane's newest shape. Preview first; nothing is sent until
          you say so.
        </p>
        <div className="grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
          <Labelled label="Lane">
            {(id) => (
              <select
                id={id}
                className={select}
                value={lane}
                onChange={(event) => change(setLane)(event.target.value)}
                required
              >
                <option value="">choose one</option>
                {lanes.data?.lanes.map((one) => (
                  <option key={one.lane}>{one.lane}</option>
                ))}
              </select>
            )}
          </Labelled>
          <Labelled label="To">
            {(id) => (
              <select
                id={id}
                className={select}
                value={outlet}
                onChange={(event) => change(setOutlet)(event.target.value)}
              >
                <option value="">the lane's own outlet</option>
                {outlets.data?.map((one) => (
                  <option key={one.name}>{one.name}</option>
                ))}
              </select>
            )}
          </Labelled>
          <Field
            label="From"
            type="datetime-local"
            value={from}
            required
            onChange={(event) => change(setFrom)(event.target.value)}
          />
          <Field
            label="Until"
            type="datetime-local"
            value={to}
            hint="now, if left empty"
            onChange={(event) => change(setTo)(event.target.value)}
          />
          <Field
            label="Device"
            value={device}
            hint="any, if left empty"
            mono
            onChange={(event) => change(setDevice)(event.target.value)}
          />
          <Field
            label="Condition"
            value={where}
            hint="over data, meta and device"
            mono
            onChange={(event) => change(setWhere)(event.target.value)}
          />
          <Field
            label="Pace"
            type="number"
            min="0.1"
            step="any"
            value={pace}
            hint="messages a second; as fast as can be, if empty"
            onChange={(event) => change(setPace)(event.target.value)}
          />
          <Labelled
            label="Idempotency key"
            hint={
              sameKey
                ? "A receiver that has one of them drops it."
                : "A receiver takes them as new; the header Holtra-Replays names the first."
            }
          >
            {(id) => (
              <select
                id={id}
                className={select}
                value={sameKey ? "first" : "new"}
                onChange={(event) => change(setSameKey)(event.target.value === "first")}
              >
                <option value="new">one of its own</option>
                <option value="first">that of the first delivery</option>
              </select>
            )}
          </Labelled>
        </div>
        {error && (
          <p role="alert" className="text-[13px] whitespace-pre-wrap text-bad">
            {error.message}
          </p>
        )}
        <div className="flex flex-wrap items-center gap-3">
          <Button type="submit" disabled={lane === "" || preview.isPending}>
            Preview
          </Button>
          {preview.data && (
            <Counted preview={preview.data} onReplay={() => replay.mutate()} busy={replay.isPending} />
          )}
        </div>
      </form>
    </Panel>
  );
}

function Counted({
  preview,
  onReplay,
  busy,
}: {
  preview: ReplayPreview;
  onReplay: () => void;
  busy: boolean;
}) {
  if (preview.deliveries === 0 || !preview.first || !preview.last) {
    return <span className="text-[13px] text-ink-soft">No message fits this. Nothing would be sent.</span>;
  }
  return (
    <>
      <span className="text-[13px]">
        {plural(preview.deliveries, "delivery", "deliveries")} of{" "}
        {plural(preview.messages, "message", "messages")}, from{" "}
        <Link href={`/messages/${preview.sample[0]}`} className="text-accent underline underline-offset-2">
          <Time instant={preview.first} />
        </Link>{" "}
        to <Time instant={preview.last} />
        {preview.note && <span className="block max-w-[70ch] text-ink-soft">{preview.note}</span>}
      </span>
      <Button look="main" type="button" onClick={onReplay} disabled={busy}>
        Deliver {count(preview.deliveries)} again
      </Button>
    </>
  );
}
