import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { api, type FieldSeen, type Inlet, withQuery } from "../api";
import { useLive } from "../live";
import { Code } from "../ui/code";
import { Mark } from "../ui/mark";
import { Empty, Failure, Panel } from "../ui/panel";
import { Since, Time } from "../ui/time";
import { count, figure, laidOut, plural, unitWord } from "../words";

/** The ways in: what comes by each, raw, and which fields it was read into. */
export function InletsPage() {
  const inlets = useQuery({ queryKey: ["inlets"], queryFn: api.inlets, refetchInterval: 5000 });
  const [chosen, setChosen] = useState("");
  if (inlets.isError && !inlets.data) return <Failure error={inlets.error} />;
  if (!inlets.data) return null;
  const inlet = inlets.data.find((one) => one.name === chosen) ?? inlets.data[0];
  if (!inlet) {
    return (
      <Panel title="Inlets">
        <Empty title="There is no way in yet.">
          A setup with an inlet makes one: <code className="font-mono">holtra setup adopt FILE</code>.
        </Empty>
      </Panel>
    );
  }
  return (
    <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,4fr)_minmax(0,9fr)]">
      <Panel title={plural(inlets.data.length, "inlet", "inlets")}>
        <ul>
          {inlets.data.map((one) => (
            <li key={one.name} className="border-b border-rule last:border-0">
              <button
                type="button"
                aria-pressed={one === inlet}
                onClick={() => setChosen(one.name)}
                className={`block w-full px-4 py-2 text-left ${one === inlet ? "bg-accent-wash" : "hover:bg-inset"}`}
              >
                <span className="font-semibold">{one.name}</span>
                <span className="float-right text-ink-soft">{count(one.lastHour)} in the last hour</span>
                <br />
                <span className="font-mono text-[12px] text-ink-soft">{one.address}</span>
              </button>
            </li>
          ))}
        </ul>
      </Panel>
      <One key={inlet.name} inlet={inlet} />
    </div>
  );
}

function One({ inlet }: { inlet: Inlet }) {
  const client = useQueryClient();
  const latest = useQuery({
    queryKey: ["inlet", inlet.name, "latest"],
    queryFn: () => api.messages({ inlet: inlet.name, limit: 1 }),
  });
  const live = useLive({
    message: (message) => {
      if (message.inlet === inlet.name) client.invalidateQueries({ queryKey: ["inlet", inlet.name] });
    },
  });
  const message = latest.data?.messages[0];
  if (!latest.data) return null;
  if (!message) return <Unheard inlet={inlet} live={live} />;
  return (
    <div className="space-y-4">
      <Arrival id={message.id} />
      <Fields inlet={inlet.name} />
      <Unwanted inlet={inlet.name} />
    </div>
  );
}

/** Nothing can be mapped before something came: say where to send it, and wait with the person. */
function Unheard({ inlet, live }: { inlet: Inlet; live: string }) {
  const address = `${location.origin}${inlet.address}`;
  return (
    <Panel title={inlet.name} aside={live === "live" ? "listening" : "reconnecting"}>
      <Empty title="Nothing has come in here yet.">
        <p>
          Paste this address at the sender, with the inlet's secret. What comes appears here by itself, raw.
        </p>
        <div className="mx-auto mt-3 max-w-lg text-left">
          <Code label="Address" text={address} />
        </div>
        <p className="mt-3 text-[13px]">Or try it by hand:</p>
        <div className="mx-auto mt-1 max-w-lg text-left">
          <Code label="Command" text={`holtra send ${inlet.name} '{"hello": 1}'`} />
        </div>
      </Empty>
    </Panel>
  );
}

function Arrival({ id }: { id: string }) {
  const trace = useQuery({
    queryKey: ["trace", id],
    queryFn: () => api.trace(id),
    placeholderData: (before) => before,
  });
  if (!trace.data) return null;
  const { message, came } = trace.data;
  return (
    <Panel
      title="The last arrival"
      aside={
        <>
          <Since instant={message.received} />
          <Link href={`/messages/${message.id}`} className="text-accent underline underline-offset-2">
            its trace
          </Link>
        </>
      }
    >
      <div className="grid gap-3 px-4 py-3 xl:grid-cols-2">
        <div>
          <p className="mb-1 text-[13px] text-ink-soft">
            as it came, {came.contentType ?? "without a content type"}
          </p>
          <Code label="Arrival" text={laidOut(came.text ?? came.base64 ?? "")} />
        </div>
        <div>
          <p className="mb-1 text-[13px] text-ink-soft">
            {message.state === "read" ? (
              `as it was read: ${message.sort} of ${message.device ?? "no device"}`
            ) : (
              <Mark state={message.state} label={message.state === "duplicate" ? "copy" : undefined} />
            )}
          </p>
          {message.state === "read" ? (
            <Code label="Data" text={JSON.stringify(trace.data.data, null, 2)} />
          ) : (
            <p className={message.state === "duplicate" ? "" : "text-bad"}>
              {message.reason ?? "A copy of a message that came before."}
            </p>
          )}
        </div>
      </div>
    </Panel>
  );
}

function Fields({ inlet }: { inlet: string }) {
  const fields = useQuery({ queryKey: ["fields"], queryFn: api.fields, refetchInterval: 3000 });
  const models = useQuery({ queryKey: ["models"], queryFn: api.models });
  const unit = (field: FieldSeen) =>
    models.data?.find((model) => model.name === field.model)?.fields[field.name]?.unit;
  const found = (fields.data ?? [])
    .filter((field) => field.inlet === inlet)
    .sort((a, b) => a.model.localeCompare(b.model) || a.name.localeCompare(b.name));
  return (
    <Panel title={`${plural(found.length, "field", "fields")} found so far`}>
      {found.length === 0 ? (
        <Empty title="No field yet.">What is read from here is listed here.</Empty>
      ) : (
        <div className="max-h-96 overflow-auto">
          <table className="w-full border-collapse">
            <thead className="sticky top-0 bg-sheet">
              <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
                <th>Field</th>
                <th>Model</th>
                <th>Kind</th>
                <th className="text-right!">Last value</th>
                <th className="text-right!">Range seen</th>
                <th className="text-right!">Times</th>
                <th>Last seen</th>
              </tr>
            </thead>
            <tbody>
              {found.map((field) => (
                <tr
                  key={`${field.model} ${field.name}`}
                  className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1"
                >
                  <td className="font-mono text-[12px]">data.{field.name}</td>
                  <td className="text-ink-soft">{field.model || "–"}</td>
                  <td className="text-ink-soft">{field.kind}</td>
                  <td className="max-w-48 truncate text-right">
                    {field.kind === "number" ? figure(Number(field.last)) : String(JSON.parse(field.last))}
                    {unit(field) && <span className="ml-1 text-ink-soft">{unitWord(unit(field) ?? "")}</span>}
                  </td>
                  <td className="text-right whitespace-nowrap text-ink-soft">
                    {field.least === null || field.most === null
                      ? ""
                      : `${figure(field.least)} to ${figure(field.most)}`}
                  </td>
                  <td className="text-right">{count(field.count)}</td>
                  <td className="text-ink-soft">
                    <Time instant={field.lastSeen} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Panel>
  );
}

function Unwanted({ inlet }: { inlet: string }) {
  const untaken = useQuery({
    queryKey: ["inlet", inlet, "untaken"],
    queryFn: () => api.messages({ inlet, state: "untaken", limit: 8 }),
  });
  const list = untaken.data?.messages ?? [];
  return (
    <Panel
      title="What no lane wanted"
      aside={
        list.length > 0 && (
          <Link
            href={withQuery("/messages", { inlet, state: "untaken" })}
            className="text-accent underline underline-offset-2"
          >
            all of it
          </Link>
        )
      }
    >
      {list.length === 0 ? (
        <p className="px-4 py-3 text-ink-soft">Every message of this inlet was taken by some lane.</p>
      ) : (
        <ul>
          {list.map((message) => (
            <li
              key={message.id}
              className="flex gap-3 border-b border-rule px-4 py-1 text-[13px] last:border-0"
            >
              <Link href={`/messages/${message.id}`} className="text-accent underline underline-offset-2">
                <Time instant={message.received} />
              </Link>
              <span className="w-24 font-mono text-[12px]">{message.device}</span>
              <span className="w-16 text-ink-soft">{message.sort}</span>
              <span className="truncate font-mono text-[12px] text-ink-soft">{message.preview}</span>
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}
