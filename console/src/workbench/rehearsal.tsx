import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { api, type Fields, type Rehearsal, type RehearsalExample } from "../api";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { Segments } from "../ui/field";
import { Mark } from "../ui/mark";
import { Panel } from "../ui/panel";
import { count, length } from "../words";

const SPANS: Record<string, { last?: number; hours?: number }> = {
  "last 1,000 messages": { last: 1000 },
  "last 10,000 messages": { last: 10_000 },
  "last 100,000 messages": { last: 100_000 },
  "last hour": { hours: 1 },
  "last day": { hours: 24 },
  "last 7 days": { hours: 168 },
};
const USUAL = "last day";

/** The lane as it is being edited, run over what really came. */
export function RehearsalPanel({ name, lane, good }: { name: string; lane: Fields; good: boolean }) {
  const [span, setSpan] = useState(USUAL);
  const [facts, setFacts] = useState<"then" | "now">("now");
  const [id, setId] = useState("");
  const start = useMutation({
    mutationFn: () => {
      const wanted = SPANS[span] ?? {};
      const from = wanted.hours ? new Date(Date.now() - wanted.hours * 3_600_000).toISOString() : undefined;
      return api.rehearse(name, { lane, last: wanted.last, from, facts });
    },
    onSuccess: (begun) => setId(begun.id),
  });
  const progress = useQuery({
    queryKey: ["rehearsal", id],
    queryFn: () => api.rehearsal(id),
    enabled: id !== "",
    refetchInterval: (query) => (query.state.data?.ended ? false : 200),
  });
  const running = start.isPending || (id !== "" && !progress.data?.ended);
  return (
    <Panel
      title="Rehearse"
      aside={
        <>
          <Choice
            label="span"
            value={span}
            options={Object.keys(SPANS)}
            onChange={(next) => setSpan(next || USUAL)}
          />
          <Segments
            label="Facts as of"
            value={facts}
            options={[
              ["now", "facts of today"],
              ["then", "facts of then"],
            ]}
            onChange={setFacts}
          />
          {running && id !== "" ? (
            <Button onClick={() => api.cancelRehearsal(id)}>Cancel</Button>
          ) : (
            <Button look="main" disabled={!good || start.isPending} onClick={() => start.mutate()}>
              Rehearse
            </Button>
          )}
        </>
      }
    >
      <div className="px-4 py-3">
        {start.isError && <p className="text-bad">{start.error.message}</p>}
        {!progress.data && !start.isError && (
          <p className="text-ink-soft">
            See what this lane, as it stands here, would have done with what really came: what it would take,
            drop and change against the active lane. Nothing is sent.
          </p>
        )}
        {progress.data && <Told rehearsal={progress.data} />}
      </div>
    </Panel>
  );
}

function Told({ rehearsal }: { rehearsal: Rehearsal }) {
  const { counts, of } = rehearsal;
  const share = of === 0 ? 1 : counts.looked / of;
  const millis = new Date(rehearsal.ended ?? Date.now()).getTime() - new Date(rehearsal.started).getTime();
  const term = (label: string, value: number, state?: string) => (
    <div>
      <span className="block text-[20px] leading-6 font-medium">{count(value)}</span>
      {state ? (
        <Mark state={state} label={label} />
      ) : (
        <span className="text-[12px] text-ink-faint">{label}</span>
      )}
    </div>
  );
  return (
    <div className="space-y-3" aria-live="polite">
      {!rehearsal.ended && (
        <div className="h-2 overflow-hidden rounded-full bg-inset">
          <div className="h-full bg-accent" style={{ width: `${share * 100}%` }} />
        </div>
      )}
      <div className="flex flex-wrap items-center gap-x-7 gap-y-2">
        {term("messages looked at", counts.looked)}
        {term("the active lane took", counts.took)}
        {term("this one takes", counts.takes)}
        <span className="h-9 border-l border-rule" aria-hidden="true" />
        {term("only this one", counts.gained, "gained")}
        {term("only the active one", counts.lost, "lost")}
        {term("other content", counts.changed, "changed")}
        {term("the same", counts.same)}
        {term("cannot be shaped", counts.failing, counts.failing > 0 ? "failing" : undefined)}
        {counts.unreadable > 0 && term("unreadable", counts.unreadable)}
        <span className="ml-auto text-[13px] text-ink-soft">
          {rehearsal.stopped ?? (rehearsal.ended ? `done in ${length(millis)}` : "under way")}; nothing was
          sent
        </span>
      </div>
      {rehearsal.ended &&
        rehearsal.memory?.same !== false &&
        counts.gained + counts.lost + counts.changed + counts.failing === 0 && (
          <p className="text-good">It would have done just what the active lane did.</p>
        )}
      {rehearsal.memory && <Remembered memory={rehearsal.memory} />}
      {rehearsal.examples.length > 0 && (
        <table className="w-full">
          <thead>
            <tr className="border-b border-rule [&>th]:py-1">
              <th className="w-28">Difference</th>
              <th className="w-40">Device</th>
              <th>Difference</th>
              <th className="w-24 text-right!">Message</th>
            </tr>
          </thead>
          <tbody>
            {rehearsal.examples.map((example) => (
              <Example key={example.type + example.message + example.point} example={example} />
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

/** What the lane's memory makes of what it takes. */
function Remembered({ memory }: { memory: NonNullable<Rehearsal["memory"]> }) {
  return (
    <p className="rounded bg-inset px-2.5 py-1.5 text-[13px]">
      <span className="font-medium">Its memory</span> made {count(memory.made)} messages of{" "}
      {count(memory.merged)}, let {count(memory.passed)} go as they are
      {memory.late > 0 && ` (${count(memory.late)} of them late)`}, held back {count(memory.heldBack)}, and
      has {count(memory.open)} still
      {memory.madeThen !== null && `; the active lane made ${count(memory.madeThen)}`}.
      {!memory.same && " It remembers otherwise than the active lane, so contents are not compared."}
    </p>
  );
}

const WORDS = {
  gained: "taken now",
  lost: "taken no more",
  changed: "other content",
  failing: "cannot be shaped",
};

function Example({ example }: { example: RehearsalExample }) {
  return (
    <tr className="border-b border-rule align-top text-[13px] last:border-0 [&>td]:py-1">
      <td>
        <Mark state={example.type} label={WORDS[example.type]} />
      </td>
      <td className="font-mono text-[12px]">
        {example.device ?? "–"}
        {example.point && <span className="text-ink-soft"> {example.point}</span>}
      </td>
      <td>
        {example.why && (
          <span className="text-ink-soft">
            {example.type === "gained" ? "the active lane did not: " : ""}
            {example.why}
          </span>
        )}
        {example.differences.map((one) => (
          <div key={one.field} className="font-mono text-[12px]">
            {one.field}: <span className="text-bad line-through">{one.was ?? "nothing"}</span>{" "}
            <span className="text-good">{one.now ?? "nothing"}</span>
          </div>
        ))}
      </td>
      <td className="text-right">
        <Link href={`/messages/${example.message}`} className="text-accent underline underline-offset-2">
          trace
        </Link>
      </td>
    </tr>
  );
}
