import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "wouter";
import { api, type Dead, type DeadChoice, type DeadLetter } from "../api";
import { useLive } from "../live";
import { Button } from "../ui/button";
import { Confirm } from "../ui/confirm";
import { Mark, Simulated } from "../ui/mark";
import { Empty, Failure, Panel } from "../ui/panel";
import { Time } from "../ui/time";
import { count, plural } from "../words";

export function DeadPage() {
  const [parameters, setParameters] = useSearchParams();
  const lane = parameters.get("lane") ?? "";
  const cause = parameters.get("cause") ?? "";
  const client = useQueryClient();
  const dead = useQuery({
    queryKey: ["dead", lane, cause],
    queryFn: () => api.dead(lane, cause),
    refetchInterval: 5000,
  });
  useLive({
    delivery: (delivery) => {
      if (delivery.state === "dead") client.invalidateQueries({ queryKey: ["dead"] });
    },
  });
  const choose = (nextLane: string, nextCause: string) =>
    setParameters(
      nextLane === "" ? {} : { lane: nextLane, ...(nextCause === "" ? {} : { cause: nextCause }) },
    );
  if (dead.isError && !dead.data) return <Failure error={dead.error} />;
  if (!dead.data) return null;
  if (dead.data.total === 0) {
    return (
      <Panel label="Dead letters" title="Dead letters">
        <Empty title="There are no dead letters.">
          A delivery dies when its destination refuses it, when it cannot be shaped, or when it was tried for
          as long as its lane allows. It then waits here for a person to retry or drop it.
        </Empty>
      </Panel>
    );
  }
  return (
    <div className="space-y-4">
      <Groups dead={dead.data} lane={lane} cause={cause} choose={choose} />
      <Letters key={`${lane} ${cause}`} letters={dead.data.letters} filtered={lane !== ""} />
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
  const settled = () => {
    client.invalidateQueries({ queryKey: ["dead"] });
    client.invalidateQueries({ queryKey: ["overview"] });
    done?.();
  };
  const retry = useMutation({ mutationFn: () => api.retry(choice), onSuccess: settled });
  const drop = useMutation({ mutationFn: () => api.drop(choice), onSuccess: settled });
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
        onClick={() => retry.mutate()}
        disabled={busy || number === 0}
        aria-label={`Retry ${number} ${what}`}
      >
        Retry
      </Button>
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
        {number === 1 ? "It" : "They"} will not be delivered by this lane any more. The messages stay, and
        their traces will say that you dropped this.
      </Confirm>
    </>
  );
}

function Letters({ letters, filtered }: { letters: DeadLetter[]; filtered: boolean }) {
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
        <Empty title="None of these is left." />
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
    </Panel>
  );
}
