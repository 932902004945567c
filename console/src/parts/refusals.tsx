import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Refusal } from "../api";
import { Button } from "../ui/button";
import { Panel } from "../ui/panel";
import { Time } from "../ui/time";
import { count } from "../words";

const FIRST = 5;

/** A slip by name, such as no-header, as a person says it. */
const said = (slip: string) => slip.replaceAll("-", " ");

/**
 * Calls that an inlet refused, each with what its sender did wrong, live; nothing where there is none.
 *
 * @param inlet without a name, calls to addresses that are no inlet's
 */
export function RefusedCalls({ inlet }: { inlet?: string }) {
  const refused = useQuery({
    queryKey: ["refusals", inlet ?? ""],
    queryFn: () => api.refusals(inlet),
    refetchInterval: 2000,
  });
  const [all, setAll] = useState(false);
  const calls = refused.data?.refusals ?? [];
  if (calls.length === 0) return null;
  return (
    <Panel
      label="Refused calls"
      title={inlet ? "Refused calls" : "Calls to addresses of no inlet"}
      aside={refused.data?.slips.map((one) => `${count(one.count)} × ${said(one.slip)}`).join(", ")}
    >
      <ul>
        {calls.slice(0, all ? undefined : FIRST).map((one) => (
          <Call key={`${one.at} ${one.node} ${one.address}`} call={one} />
        ))}
      </ul>
      {calls.length > FIRST && (
        <p className="border-t border-rule px-4 py-2">
          <Button onClick={() => setAll(!all)}>{all ? "Show fewer" : `Show all ${calls.length}`}</Button>
        </p>
      )}
    </Panel>
  );
}

function Call({ call }: { call: Refusal }) {
  const fields = Object.entries(call.fields);
  return (
    <li className="border-b border-rule px-4 py-2 last:border-0">
      <p className="flex flex-wrap items-baseline gap-x-3 text-[13px]">
        <span className="font-semibold text-bad">
          {call.code} {said(call.slip)}
        </span>
        <code className="font-mono text-[12.5px] break-all">{call.address}</code>
        <span className="ml-auto text-ink-soft">
          <Time instant={call.at} /> from {call.remote}
        </span>
      </p>
      <p className="text-[13px]">{call.text}</p>
      {fields.length > 0 && (
        <details className="text-[12px] text-ink-soft">
          <summary className="cursor-pointer">Headers</summary>
          <dl className="grid grid-cols-[max-content_1fr] gap-x-3 font-mono">
            {fields.map(([name, value]) => (
              <div key={name} className="contents">
                <dt>{name}</dt>
                <dd className="break-all">{value}</dd>
              </div>
            ))}
          </dl>
        </details>
      )}
    </li>
  );
}
