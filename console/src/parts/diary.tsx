import { useQuery } from "@tanstack/react-query";
import { Link } from "wouter";
import { api, type ConnectionStatus } from "../api";
import { Mark } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Since, Time } from "../ui/time";
import { plural } from "../words";
import { OnThisNode } from "./on-this-node";

/** How an inlet stands, with the reason, since when, and when it last did what it is there for. */
export function Connected({ status, shares }: { status: ConnectionStatus; shares?: string | null }) {
  return (
    <p className="flex flex-wrap items-center gap-2 text-[13px]">
      <Mark state={status.state} />
      {status.reason && <span>{status.reason}</span>}
      <span className="text-ink-soft">
        since <Time instant={status.since} />
        {status.lastGood && (
          <>
            , last message <Since instant={status.lastGood} />
          </>
        )}
        <OnThisNode />
      </span>
      {shares && (
        <Link
          href={`/connections/${encodeURIComponent(shares)}`}
          className="text-accent underline underline-offset-2"
        >
          connection {shares}
        </Link>
      )}
    </p>
  );
}

/** What happened to an inlet, an outlet or what they share, the newest first; what only somebody who looks for a cause wants is folded away. */
export function Diary({ of, name }: { of: "inlets" | "outlets" | "connections"; name: string }) {
  const lines = useQuery({
    queryKey: ["diary", of, name],
    queryFn: () => api.diary(of, name),
    refetchInterval: 5000,
  });
  if (lines.isError && !lines.data) return <Failure error={lines.error} />;
  if (!lines.data) return <Loading />;
  return (
    <Panel title="Diary" label="Diary" aside={plural(lines.data.length, "line", "lines")}>
      {lines.data.length === 0 ? (
        <Empty title="Nothing yet">Events of its connection appear here.</Empty>
      ) : (
        <ol className="max-h-80 overflow-auto text-[13px]">
          {lines.data.map((line) => (
            <li key={`${line.at}${line.line}`} className="border-b border-rule px-4 py-1.5 last:border-0">
              <span className="mr-3 text-ink-soft">
                <Time instant={line.at} />
              </span>
              {line.line}
              <span className="float-right text-ink-faint">{line.node}</span>
              {line.detail && (
                <details className="text-ink-soft">
                  <summary className="cursor-pointer text-[12px]">details</summary>
                  <pre className="font-mono text-[12px] whitespace-pre-wrap">{line.detail}</pre>
                </details>
              )}
            </li>
          ))}
        </ol>
      )}
    </Panel>
  );
}
