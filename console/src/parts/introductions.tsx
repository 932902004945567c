import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { Link } from "wouter";
import { api, type DeviceChoice, type Introductions as Page } from "../api";
import { usePages } from "../pages-of-list";
import { Button } from "../ui/button";
import { Field, Segments } from "../ui/field";
import { Mark } from "../ui/mark";
import { More } from "../ui/more";
import { Empty, Failure, Panel } from "../ui/panel";
import { Since } from "../ui/time";
import { count } from "../words";
import { Report } from "./dry-run-report";
import { JobProgress } from "./job-progress";
import { MadeThere } from "./made-there";
import { StepTrial } from "./step-trial";

const states = [
  ["", "All"],
  ["known", "Known"],
  ["waiting", "Waiting"],
  ["refused", "Refused"],
] as const;

/** How devices stand at an outlet's destination, for outlets with a recipe; nothing for others. */
export function Introductions({ outlet }: { outlet: string }) {
  const [state, setState] = useState<(typeof states)[number][0]>("");
  const pages = usePages(
    ["introductions", outlet, state],
    (after) => api.introductions(outlet, state, after),
    2000,
  );
  const client = useQueryClient();
  const refresh = useCallback(
    () => client.invalidateQueries({ queryKey: ["introductions", outlet] }),
    [client, outlet],
  );
  const act = useMutation({
    mutationFn: (resume: boolean) =>
      resume ? api.resumeIntroductions(outlet) : api.pauseIntroductions(outlet),
    onSettled: refresh,
  });
  if (pages.isError && !pages.data) return <Failure error={pages.error} />;
  const first = pages.data?.pages[0];
  if (!first?.recipe && !first?.made) return null;
  const all = pages.data?.pages.flatMap((page) => page.introductions) ?? [];
  return (
    <>
      <Panel
        title="Devices there"
        label="Devices there"
        aside={
          <>
            <Segments label="State" value={state} options={states} onChange={setState} />
            <Button onClick={() => act.mutate(first.paused !== null)}>
              {first.paused ? "Resume" : "Pause"}
            </Button>
          </>
        }
      >
        <Standing page={first} onTry={() => act.mutate(true)} />
        {all.length === 0 ? (
          <Empty title={state ? `None ${state}` : "No device was introduced yet"}>
            Devices are introduced with their first message. Introduce them ahead of it below.
          </Empty>
        ) : (
          <div className="max-h-96 overflow-auto">
            <table className="w-full">
              <thead className="sticky top-0 bg-sheet">
                <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1">
                  <th>Device</th>
                  <th>State</th>
                  <th>Called there</th>
                  <th>Id there</th>
                  <th>Since</th>
                </tr>
              </thead>
              <tbody>
                {all.map((one) => (
                  <tr key={one.device} className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1">
                    <td>
                      <Link
                        href={`/devices/${encodeURIComponent(one.device)}`}
                        className="font-mono text-[12.5px] whitespace-nowrap text-accent underline underline-offset-2"
                      >
                        {one.device}
                      </Link>
                    </td>
                    <td>
                      <Mark state={one.state} label={one.why ?? one.state} />
                      {one.existed && <span className="ml-2 text-[12px] text-ink-soft">existed already</span>}
                      {one.reason && (
                        <p className="max-w-[36rem] text-[12px] text-ink-soft">
                          {one.step && `${one.step}: `}
                          {one.reason}
                        </p>
                      )}
                    </td>
                    <td className="font-mono text-[12.5px] whitespace-nowrap">{one.called}</td>
                    <td className="font-mono text-[12.5px] whitespace-nowrap">{one.id}</td>
                    <td className="whitespace-nowrap text-ink-soft">
                      <Since instant={one.since} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            <More pages={pages} />
          </div>
        )}
      </Panel>
      {first.recipe && (
        <>
          <StepTrial outlet={outlet} onMade={refresh} />
          <Many outlet={outlet} onEnd={refresh} />
        </>
      )}
      <MadeThere outlet={outlet} recipe={first.recipe} onEnd={refresh} />
    </>
  );
}

/** What stands in the way of all, and how many stand how. */
function Standing({ page, onTry }: { page: Page; onTry: () => void }) {
  const counts = Object.entries(page.counts).filter(([what, number]) => number > 0 && !what.includes(": "));
  const why = Object.entries(page.counts)
    .filter(([what]) => what.startsWith("refused: "))
    .map(([what, number]) => `${what.slice(9)} ${count(number)}`)
    .join(", ");
  return (
    <div className="space-y-2 border-b border-rule px-4 py-2 text-[13px]">
      {page.standsStill && (
        <div
          role="alert"
          className="flex flex-wrap items-center gap-3 rounded bg-wait-wash px-2.5 py-1.5 text-wait"
        >
          <span className="min-w-0 flex-1">Introductions wait. {page.standsStill}</span>
          <Button onClick={onTry}>Try again now</Button>
        </div>
      )}
      {page.paused && (
        <p className="rounded bg-wait-wash px-2.5 py-1.5 text-wait">
          Paused by {page.paused.by} <Since instant={page.paused.since} />. Messages of devices that are not
          known there wait.
        </p>
      )}
      <p className="text-ink-soft">
        {counts.length === 0
          ? "No devices yet"
          : counts
              .map(
                ([what, number]) => `${count(number)} ${what}${what === "refused" && why ? ` (${why})` : ""}`,
              )
              .join(", ")}
      </p>
    </div>
  );
}

const choices = [
  ["all", "All devices"],
  ["pattern", "By key"],
  ["where", "By condition"],
] as const;

/** Introduces many devices at once, after a look at what that would come to. */
function Many({ outlet, onEnd }: { outlet: string; onEnd: () => void }) {
  const [by, setBy] = useState<(typeof choices)[number][0]>("all");
  const [text, setText] = useState("");
  const [job, setJob] = useState<string>();
  const choice: DeviceChoice = by === "all" ? {} : { [by]: text };
  const dry = useMutation({ mutationFn: () => api.dryRun(outlet, choice) });
  const begin = useMutation({
    mutationFn: () => api.introduce(outlet, choice),
    onSuccess: (begun) => setJob(begun.id),
  });
  const failed = dry.error ?? begin.error;
  const incomplete = by !== "all" && text.trim() === "";
  return (
    <Panel title="Introduce devices" label="Introduce devices">
      <div className="space-y-3 px-4 py-3">
        <div className="flex flex-wrap items-end gap-3">
          <Segments
            label="Which devices"
            value={by}
            options={choices}
            onChange={(value) => {
              setBy(value);
              dry.reset();
            }}
          />
          {by !== "all" && (
            <div className="w-80">
              <Field
                label={by === "pattern" ? "Keys" : "Condition over device"}
                mono
                placeholder={by === "pattern" ? "cs-*" : "device.facts.orchard == 'Ashcombe'"}
                value={text}
                error={failed?.message}
                onChange={(event) => {
                  setText(event.target.value);
                  dry.reset();
                  begin.reset();
                }}
              />
            </div>
          )}
          <Button disabled={incomplete || dry.isPending} onClick={() => dry.mutate()}>
            {dry.isPending ? "Looking…" : "Dry run"}
          </Button>
          <Button look="main" disabled={incomplete || begin.isPending} onClick={() => begin.mutate()}>
            Introduce
          </Button>
        </div>
        {by === "all" && failed && (
          <p role="alert" className="text-[13px] text-bad">
            {failed.message}
          </p>
        )}
        {dry.data && <Report report={dry.data} />}
        {job && <JobProgress key={job} id={job} onEnd={onEnd} />}
      </div>
    </Panel>
  );
}
