import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "wouter";
import { api, withQuery } from "../api";
import { delivery, type OwnTrouble } from "../delivery";
import { Loading } from "../ui/panel";
import { Since } from "../ui/time";
import { count } from "../words";

const pages: Record<string, (name: string) => string> = {
  outlet: (name) => `/outlets/${name}`,
  backlog: (name) => `/lanes/${name}`,
  inlet: (name) => `/inlets/${name}`,
  // Of an inlet that runs on every node, the node stands behind its name.
  connection: (name) => `/inlets/${name.split("@")[0]}`,
  dead: (name) => `/dead?lane=${name}`,
};

export const useStatus = () =>
  useQuery({ queryKey: ["status"], queryFn: delivery.status, refetchInterval: 2000 });

/** What is wrong with Holtra itself, and what waits on its nodes' disks; nothing where all is well. */
export function OwnTroubles() {
  const status = useStatus();
  if (!status.data) return <Loading />;
  const { troubles, spools, nodes } = status.data;
  const spooled = spools.filter((spool) => spool.messages > 0);
  if (troubles.length === 0 && spooled.length === 0 && nodes.length < 2) return null;
  return (
    <section aria-label="Holtra itself" className="space-y-1.5">
      {troubles.map((one) => (
        <Note key={`${one.what} ${one.name}`} tone="bad">
          <Named trouble={one} />, since <Since instant={one.since} />
        </Note>
      ))}
      {troubles.length > 0 && <NobodyTold />}
      {spooled.map((spool) => (
        <Note key={spool.node} tone="wait">
          {count(spool.messages)} messages are spooled on node {spool.node}
          {spool.oldest && (
            <>
              , the oldest since <Since instant={spool.oldest} />
            </>
          )}
          .{" "}
          {spool.here
            ? "They are written once the database is back."
            : "They are written once that node runs again."}
        </Note>
      ))}
      {nodes.length > 1 && (
        <Note tone="calm">
          {nodes.length} nodes are at work: {nodes.map((node) => node.name).join(", ")}.
        </Note>
      )}
    </section>
  );
}

/** Offered as long as no lane takes Holtra's own messages: who has no console open hears of no trouble. */
function NobodyTold() {
  const inlets = useQuery({ queryKey: ["inlets"], queryFn: api.inlets });
  const own = inlets.data?.find((one) => one.own);
  if (!own || own.lanes.length > 0) return null;
  return (
    <Note tone="calm">
      No lane takes Holtra's own messages, so nobody hears of this without a console.{" "}
      <Link
        href={withQuery("/lanes/troubles", { inlet: own.name, pick: "meta.type == 'alarm'" })}
        className="text-accent underline underline-offset-2"
      >
        Have troubles mailed
      </Link>
    </Note>
  );
}

function Named({ trouble }: { trouble: OwnTrouble }) {
  const text = trouble.text.charAt(0).toUpperCase() + trouble.text.slice(1);
  const page = pages[trouble.what]?.(trouble.name);
  return page ? (
    <Link href={page} className="underline underline-offset-2">
      {text}
    </Link>
  ) : (
    text
  );
}

const looks = {
  bad: "bg-bad-wash text-bad",
  wait: "bg-wait-wash text-wait",
  calm: "bg-inset text-ink-soft",
};

function Note({ tone, children }: { tone: keyof typeof looks; children: ReactNode }) {
  return (
    <p role="status" className={`rounded px-3 py-1.5 text-[13px] ${looks[tone]}`}>
      {children}
    </p>
  );
}
