import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { Link } from "wouter";
import { api, type MadeThere as Made } from "../api";
import { usePages } from "../pages-of-list";
import { Button } from "../ui/button";
import { Confirm } from "../ui/confirm";
import { Segments } from "../ui/field";
import { Mark } from "../ui/mark";
import { More } from "../ui/more";
import { Empty, Failure, Panel } from "../ui/panel";
import { Since } from "../ui/time";
import { plural } from "../words";
import { JobProgress } from "./job-progress";

/** What was made at a destination: compared with what is there now, and removed again. */
export function MadeThere({ outlet, recipe, onEnd }: { outlet: string; recipe: boolean; onEnd: () => void }) {
  const [chosen, setChosen] = useState<string[]>([]);
  const [job, setJob] = useState<string>();
  const client = useQueryClient();
  const [which, setWhich] = useState<"all" | "differing">("all");
  const pages = usePages(
    ["made", outlet, which],
    (after) => api.made(outlet, which === "differing", after),
    5000,
  );
  const compare = useMutation({
    mutationFn: () => api.compareMade(outlet),
    onSuccess: (begun) => setJob(begun.id),
  });
  const remove = useMutation({
    mutationFn: () => api.removeMade(outlet, chosen.length ? { keys: chosen } : {}),
    onSuccess: (begun) => {
      setJob(begun.id);
      setChosen([]);
    },
  });
  const ended = useCallback(() => {
    client.invalidateQueries({ queryKey: ["made", outlet] });
    onEnd();
  }, [client, outlet, onEnd]);
  if (pages.isError && !pages.data) return <Failure error={pages.error} />;
  const all = pages.data?.pages.flatMap((page) => page.made) ?? [];
  const devices = byDevice(all);
  const failed = compare.error ?? remove.error;
  return (
    <Panel
      title="What we made there"
      label="What we made there"
      aside={
        (all.length > 0 || which === "differing") &&
        recipe && (
          <>
            <Segments
              label="Which"
              value={which}
              options={[
                ["all", "All"],
                ["differing", "Otherwise than made"],
              ]}
              onChange={setWhich}
            />
            <Button onClick={() => compare.mutate()}>Compare</Button>
            <Confirm
              trigger={
                <Button look="danger">
                  {chosen.length ? `Remove ${chosen.length} chosen` : "Remove all"}
                </Button>
              }
              title={
                chosen.length
                  ? `Remove ${plural(chosen.length, "device", "devices")} there?`
                  : "Remove all that we made there?"
              }
              action="Remove there"
              onConfirm={() => remove.mutate()}
            >
              The destination loses these devices with all that it keeps of them. Devices stay known here;
              their next message introduces them anew.
            </Confirm>
          </>
        )
      }
    >
      <div className="space-y-1 px-4 py-2 empty:hidden">
        {failed && (
          <p role="alert" className="text-[13px] text-bad">
            {failed.message}
          </p>
        )}
        {job && <JobProgress key={job} id={job} onEnd={ended} />}
      </div>
      {devices.length === 0 ? (
        <Empty title={which === "differing" ? "All is as we made it" : "Nothing of ours is there"}>
          What introductions create is listed here, to be removed again.
        </Empty>
      ) : (
        <div className="max-h-80 overflow-auto">
          <table className="w-full">
            <thead className="sticky top-0 bg-sheet">
              <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1">
                <th className="w-8" />
                <th>Device</th>
                <th>Made</th>
                <th>Called there</th>
                <th>Since</th>
                <th>By</th>
                <th className="text-right!">Revision</th>
                <th>Compared</th>
              </tr>
            </thead>
            <tbody>
              {devices.map(([device, its]) => (
                <tr key={device} className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1">
                  <td>
                    <input
                      type="checkbox"
                      aria-label={`Choose ${device}`}
                      checked={chosen.includes(device)}
                      onChange={(event) =>
                        setChosen(
                          event.target.checked ? [...chosen, device] : chosen.filter((one) => one !== device),
                        )
                      }
                    />
                  </td>
                  <td>
                    <Link
                      href={`/devices/${encodeURIComponent(device)}`}
                      className="font-mono text-[12.5px] whitespace-nowrap text-accent underline underline-offset-2"
                    >
                      {device}
                    </Link>
                  </td>
                  <td>{its.map((one) => one.what).join(", ")}</td>
                  <td className="font-mono text-[12.5px] whitespace-nowrap">{its[0]?.name}</td>
                  <td className="whitespace-nowrap text-ink-soft">
                    <Since instant={its[0]?.at ?? ""} />
                  </td>
                  <td className="text-ink-soft">{its[0]?.by}</td>
                  <td className="text-right">{its[0]?.revision}</td>
                  <td>
                    <Difference made={its[0]} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <More pages={pages} />
        </div>
      )}
    </Panel>
  );
}

function Difference({ made }: { made: Made | undefined }) {
  if (!made?.compared) return <span className="text-ink-faint">not yet</span>;
  return (
    <span className="flex flex-wrap items-center gap-2">
      {made.differs?.length ? (
        <Mark state="changed" label={made.differs.join(", ")} />
      ) : (
        <Mark state="passed" label="as made" />
      )}
      <span className="text-[12px] whitespace-nowrap text-ink-soft">
        <Since instant={made.compared} />
      </span>
    </span>
  );
}

/** In the order in which the first thing of each was made. */
export function byDevice(all: Made[]): [string, Made[]][] {
  const devices = new Map<string, Made[]>();
  for (const one of all) devices.set(one.device, [...(devices.get(one.device) ?? []), one]);
  return [...devices.entries()];
}
