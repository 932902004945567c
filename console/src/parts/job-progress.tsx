import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { api } from "../api";
import { Mark } from "../ui/mark";
import { count } from "../words";

/** How far a job is that was started here; tells once when it has ended. */
export function JobProgress({ id, onEnd }: { id: string; onEnd?: () => void }) {
  const job = useQuery({
    queryKey: ["job", id],
    queryFn: () => api.job(id),
    refetchInterval: (query) => (query.state.data?.state === "running" || !query.state.data ? 500 : false),
  });
  const ended = job.data !== undefined && job.data.state !== "running";
  useEffect(() => {
    if (ended) onEnd?.();
  }, [ended, onEnd]);
  if (!job.data) return null;
  const { name, state, done, expected, note } = job.data;
  return (
    <p role="status" className="flex flex-wrap items-center gap-2 text-[13px]">
      <span className="font-mono text-[12px] text-ink-soft">{name}</span>
      {state === "running" ? (
        <>
          <progress className="h-1.5 w-40 accent-accent" max={expected ?? undefined} value={done} />
          {count(done)}
          {expected !== null && ` of ${count(expected)}`}
          {note && <span className="text-wait">{note}</span>}
        </>
      ) : (
        <>
          <Mark state={state === "done" ? "passed" : state} label={state} />
          {note ?? `${count(done)} done`}
        </>
      )}
    </p>
  );
}
