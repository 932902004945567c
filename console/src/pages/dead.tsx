import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useSearchParams } from "wouter";
import { api, type Dead, type DeadChoice, type DeadLetter } from "../api";
import { type Content, delivery, type Job } from "../delivery";
import { useLive } from "../live";
import { usePages } from "../pages-of-list";
import { Button } from "../ui/button";
import { Confirm } from "../ui/confirm";
import { Sheet } from "../ui/dialog";
import { Field, Labelled } from "../ui/field";
import { Mark, Simulated } from "../ui/mark";
import { More } from "../ui/more";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Time } from "../ui/time";
import { capital, count, plural } from "../words";

export function DeadPage() {
  const [parameters, setParameters] = useSearchParams();
  const lane = parameters.get("lane") ?? "";
  const cause = parameters.get("cause") ?? "";
  const client = useQueryClient();
  const dead = usePages(["dead", lane, cause], (after) => api.dead(lane, cause, after), 5000);
  const [newest] = dead.data?.pages ?? [];
  useLive({
    delivery: (delivery) => {
      if (delivery.state === "dead") client.invalidateQueries({ queryKey: ["dead"] });
    },
    refresh: () => client.invalidateQueries({ queryKey: ["dead"] }),
  });
  const choose = (nextLane: string, nextCause: string) =>
    setParameters(
      nextLane === "" ? {} : { lane: nextLane, ...(nextCause === "" ? {} : { cause: nextCause }) },
    );
  if (dead.isError && !newest) return <Failure error={dead.error} />;
  if (!newest) return <Loading />;
  if (newest.total === 0) {
    return (
      <div className="space-y-4">
        <Dropped />
        <Panel label="Dead letters" title="Dead letters">
          <Empty title="No dead letters">
            A delivery dies when its destination refuses it, when it cannot be shaped, or when it was tried
            for as long as its lane allows. It then waits here for a person to retry or drop it.
          </Empty>
        </Panel>
      </div>
    );
  }
  return (
    <div className="space-y-4">
      <Dropped />
      <Groups dead={newest} lane={lane} cause={cause} choose={choose} />
      <Letters
        key={`${lane} ${cause}`}
        letters={dead.data?.pages.flatMap((page) => page.letters) ?? []}
        filtered={lane !== ""}
        more={<More pages={dead} />}
      />
    </div>
  );
}

function Groups({
  dead,
  lane,
  cause,
  choose,
}: {
  dead: Dead;
  lane: string;
  cause: string;
  choose: (lane: string, cause: string) => void;
}) {
  return (
    <Panel
      label="By lane and cause"
      title={plural(dead.total, "dead letter", "dead letters")}
      aside={lane !== "" && <Button onClick={() => choose("", "")}>Show all</Button>}
    >
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
            <th>Lane</th>
            <th>Outlet</th>
            <th>Cause</th>
            <th className="text-right!">Letters</th>
            <th>First</th>
            <th>Last</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {dead.groups.map((group) => {
            const here = group.lane === lane && (cause === "" || group.cause === cause);
            return (
              <tr
                key={`${group.lane} ${group.outlet} ${group.cause}`}
                className={`border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1.5 ${here ? "bg-accent-wash" : ""}`}
              >
                <td className="font-semibold">{group.lane}</td>
                <td className="text-ink-soft">{group.outlet}</td>
                <td>
                  <Mark state="dead" label={group.cause} />
                </td>
                <td className="text-right">{count(group.count)}</td>
                <td className="text-ink-soft">
                  <Time instant={group.first} />
                </td>
                <td className="text-ink-soft">
                  <Time instant={group.last} />
                </td>
                <td className="w-56 text-right">
                  <span className="inline-flex gap-2">
                    <Button
                      onClick={() => choose(group.lane, group.cause)}
                      aria-label={`Show those of ${group.lane}`}
                    >
                      Show
                    </Button>
                    <Acts
                      choice={{ lane: group.lane, outlet: group.outlet, cause: group.cause }}
                      number={group.count}
                      what={`of lane ${group.lane}`}
                    />
                  </span>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Panel>
  );
}

/** Retry and drop for one, for many, or for a group. */
function Acts({
  choice,
  number,
  what,
  done,
}: {
  choice: DeadChoice;
  number: number;
  what: string;
  done?: () => void;
}) {
  const client = useQueryClient();
  const outlets = useQuery({ queryKey: ["outlets"], queryFn: api.outlets });
  const [aiming, setAiming] = useState(false);
  const settled = () => {
    client.invalidateQueries({ queryKey: ["jobs"] });
    client.invalidateQueries({ queryKey: ["dead"] });
    client.invalidateQueries({ queryKey: ["overview"] });
    done?.();
  };
  const retry = useMutation({
    mutationFn: (to?: string) => delivery.retry(choice, to),
    onSuccess: () => {
      setAiming(false);
      settled();
    },
  });
  const drop = useMutation({ mutationFn: () => delivery.drop(choice), onSuccess: settled });
  const error = retry.error ?? drop.error;
  const busy = retry.isPending || drop.isPending;
  return (
    <>
      {error && (
        <span role="alert" className="self-center text-[13px] text-bad">
          {error.message}
        </span>
      )}
      <Button
        onClick={() => retry.mutate(undefined)}
        disabled={busy || number === 0}
        aria-label={`Retry ${number} ${what}`}
      >
        Retry
      </Button>
      <Button
        onClick={() => setAiming(true)}
        disabled={busy || number === 0}
        aria-label={`Send ${number} ${what} elsewhere`}
      >
        Elsewhere…
      </Button>
      <Sheet
        open={aiming}
        onClose={() => setAiming(false)}
        title={`Send ${plural(number, "dead letter", "dead letters")} to another outlet`}
        about="With the newest shape of the lane, under the same idempotency key. Later messages keep going where the lane goes."
      >
        <ul className="space-y-1">
          {outlets.data?.map((outlet) => (
            <li key={outlet.name}>
              <Button onClick={() => retry.mutate(outlet.name)} disabled={busy}>
                {outlet.name}
              </Button>
            </li>
          ))}
        </ul>
      </Sheet>
      <Confirm
        trigger={
          <Button look="danger" disabled={busy || number === 0} aria-label={`Drop ${number} ${what}`}>
            Drop
          </Button>
        }
        title={`Drop ${plural(number, "dead letter", "dead letters")}?`}
        action="Drop"
        onConfirm={() => drop.mutate()}
      >
        {number === 1 ? "It" : "They"} will not be delivered by this lane any more. For ten minutes you can
        take that back. The messages stay, and their traces will say that you dropped this.
      </Confirm>
    </>
  );
}

/** What was dropped of late, and can be taken back still. */
function Dropped() {
  const client = useQueryClient();
  const all = useQuery({
    queryKey: ["jobs", "latest"],
    queryFn: () => delivery.jobs(),
    refetchInterval: 2000,
  });
  const undo = useMutation({
    mutationFn: (id: string) => delivery.undo(id),
    onSuccess: () => client.invalidateQueries(),
  });
  const open = (one: Job) =>
    one.undoUntil !== null && one.undone === null && Date.parse(one.undoUntil) > Date.now() && one.done > 0;
  return (
    <>
      {all.data?.jobs.filter(open).map((one) => (
        <p
          key={one.id}
          role="status"
          className="flex items-center gap-3 rounded bg-inset px-3 py-1.5 text-[13px] text-ink-soft"
        >
          {plural(one.done, "dead letter was", "dead letters were")} dropped by {one.by}
          <Button onClick={() => undo.mutate(one.id)} disabled={undo.isPending}>
            Take back
          </Button>
        </p>
      ))}
    </>
  );
}

/** Shows what a dead letter would go with, to be changed before it goes again. */
function Edit({ letter }: { letter: DeadLetter }) {
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  const [edited, setEdited] = useState<Partial<Content>>({});
  const content = useQuery({
    queryKey: ["dead-content", letter.delivery],
    queryFn: () => delivery.content(letter.delivery),
    enabled: open,
    retry: false,
  });
  const send = useMutation({
    mutationFn: (whole: Content) => delivery.editRetry(letter.delivery, whole),
    onSuccess: () => {
      setOpen(false);
      client.invalidateQueries({ queryKey: ["dead"] });
    },
  });
  const whole = content.data && { ...content.data, ...edited };
  return (
    <>
      <Button onClick={() => setOpen(true)} aria-label={`Edit that of ${letter.device ?? letter.delivery}`}>
        Edit…
      </Button>
      <Sheet
        open={open}
        onClose={() => setOpen(false)}
        title="Edit and retry"
        about={`${letter.lane} → ${letter.outlet}. ${letter.reason}`}
        wide
      >
        {content.error && (
          <p role="alert" className="text-[13px] text-bad">
            {content.error.message}
          </p>
        )}
        {whole && (
          <form
            className="space-y-3"
            onSubmit={(event) => {
              event.preventDefault();
              send.mutate(whole);
            }}
          >
            {Object.entries(whole.texts).map(([name, value]) => (
              <Field
                key={name}
                label={capital(name)}
                mono
                value={value}
                onChange={(event) =>
                  setEdited({ ...edited, texts: { ...whole.texts, [name]: event.target.value } })
                }
              />
            ))}
            {Object.entries(whole.named).flatMap(([name, values]) =>
              values.map((one, at) => (
                <Field
                  key={`${name}.${one.name}`}
                  label={`${capital(name)}: ${one.name}`}
                  mono
                  value={one.value}
                  onChange={(event) => {
                    const changed = values.with(at, { name: one.name, value: event.target.value });
                    setEdited({ ...edited, named: { ...whole.named, [name]: changed } });
                  }}
                />
              )),
            )}
            <Labelled label="Body" hint="goes byte for byte as written here" error={send.error?.message}>
              {(id, told) => (
                <textarea
                  id={id}
                  aria-describedby={told}
                  rows={12}
                  spellCheck={false}
                  className="w-full rounded border border-rule bg-sheet p-2 font-mono text-[12.5px]"
                  value={whole.body}
                  onChange={(event) => setEdited({ ...edited, body: event.target.value })}
                />
              )}
            </Labelled>
            <Button look="main" type="submit" disabled={send.isPending}>
              Send it so
            </Button>
          </form>
        )}
      </Sheet>
    </>
  );
}

function Letters({ letters, filtered, more }: { letters: DeadLetter[]; filtered: boolean; more: ReactNode }) {
  const [ticked, setTicked] = useState<Set<string>>(new Set());
  const shown = letters.filter((letter) => ticked.has(letter.delivery)).map((letter) => letter.delivery);
  const all = letters.length > 0 && shown.length === letters.length;
  const tick = (delivery: string) =>
    setTicked((before) => {
      const next = new Set(before);
      if (!next.delete(delivery)) next.add(delivery);
      return next;
    });
  return (
    <Panel
      label="Letters"
      title={filtered ? "Those chosen" : "The newest"}
      aside={
        <>
          <span>
            {shown.length > 0 ? `${count(shown.length)} ticked` : "tick some to act on them together"}
          </span>
          <Acts
            choice={{ deliveries: shown }}
            number={shown.length}
            what="ticked"
            done={() => setTicked(new Set())}
          />
        </>
      }
    >
      {letters.length === 0 ? (
        <Empty title="None left" />
      ) : (
        <table className="w-full border-collapse">
          <thead>
            <tr className="border-b border-rule [&>th]:px-3 [&>th]:py-1.5">
              <th className="w-10">
                <input
                  type="checkbox"
                  aria-label="Tick all"
                  checked={all}
                  onChange={() =>
                    setTicked(all ? new Set() : new Set(letters.map((letter) => letter.delivery)))
                  }
                  className="size-4 accent-(--accent)"
                />
              </th>
              <th>Died</th>
              <th>Lane</th>
              <th>Device</th>
              <th className="text-right!">Attempts</th>
              <th>Why</th>
              <th>Message</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {letters.map((letter) => (
              <tr
                key={letter.delivery}
                className="border-b border-rule last:border-0 [&>td]:px-3 [&>td]:py-1.5"
              >
                <td>
                  <input
                    type="checkbox"
                    aria-label={`Tick ${letter.device ?? letter.delivery}`}
                    checked={ticked.has(letter.delivery)}
                    onChange={() => tick(letter.delivery)}
                    className="size-4 accent-(--accent)"
                  />
                </td>
                <td className="text-ink-soft">
                  <Time instant={letter.died} />
                </td>
                <td>
                  {letter.lane} <span className="text-ink-soft">→ {letter.outlet}</span>
                </td>
                <td>
                  <span className="inline-flex items-center gap-2">
                    <span className="font-mono text-[12.5px]">{letter.device ?? "–"}</span>
                    {letter.simulated && <Simulated />}
                  </span>
                </td>
                <td className="text-right">{letter.attempts}</td>
                <td className="max-w-md">{letter.reason}</td>
                <td>
                  <Link
                    href={`/messages/${letter.message}`}
                    className="text-accent underline underline-offset-2"
                    aria-label={`Trace of ${letter.message}`}
                  >
                    trace
                  </Link>
                </td>
                <td className="text-right whitespace-nowrap">
                  <span className="inline-flex gap-2">
                    <Edit letter={letter} />
                    <Acts
                      choice={{ deliveries: [letter.delivery] }}
                      number={1}
                      what={`of ${letter.device ?? letter.delivery}`}
                    />
                  </span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {more}
    </Panel>
  );
}
