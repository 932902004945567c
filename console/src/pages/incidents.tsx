import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation, useSearch } from "wouter";
import { api, Problem } from "../api";
import { type About, type Incident, incidents } from "../incidents";
import { usePages } from "../pages-of-list";
import { Button } from "../ui/button";
import { Field, Labelled, Segments } from "../ui/field";
import { Mark } from "../ui/mark";
import { More } from "../ui/more";
import { Empty, Failure, Panel } from "../ui/panel";
import { SpanPlot } from "../ui/span-plot";
import { Time } from "../ui/time";
import { local } from "../words";

export const incidentMark: Record<Incident["state"], string> = {
  looking: "running",
  marked: "waiting",
  mending: "running",
  mended: "done",
};

const windows = [
  ["1", "last hour"],
  ["6", "last 6 hours"],
  ["24", "last day"],
  ["168", "last 7 days"],
] as const;

type Window = (typeof windows)[number][0];

/** What went wrong: spans that people marked, and the way to mark another. */
export function IncidentsPage() {
  const pages = usePages(["incidents"], incidents.list, 2000);
  const all = pages.data?.pages.flatMap((page) => page.incidents);
  if (pages.isError && !all) return <Failure error={pages.error} />;
  return (
    <div className="space-y-4">
      <Marking />
      <Panel title="Incidents" label="Incidents">
        {all?.length === 0 && (
          <Empty title="No incidents yet">
            Mark when an outlet or a device was in trouble. Holtra lists what of that time is unread, dead,
            undelivered, delivered wrong or missing, and mends it as one act.
          </Empty>
        )}
        {all && all.length > 0 && <List all={all} />}
        <More pages={pages} />
      </Panel>
    </div>
  );
}

function List({ all }: { all: Incident[] }) {
  return (
    <table className="w-full border-collapse">
      <thead>
        <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
          <th>Incident</th>
          <th>About</th>
          <th>From</th>
          <th>Until</th>
          <th>State</th>
          <th>Marked by</th>
        </tr>
      </thead>
      <tbody>
        {all.map((one) => (
          <tr key={one.number} className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1.5">
            <td className="font-semibold">
              <Link href={`/incidents/${one.number}`} className="hover:underline">
                {one.number} · {one.title}
              </Link>
            </td>
            <td>{one.outlet ? `outlet ${one.outlet}` : `device ${one.device}`}</td>
            <td className="text-ink-soft">
              <Time instant={one.since} />
            </td>
            <td className="text-ink-soft">
              <Time instant={one.until} />
            </td>
            <td>
              <Mark state={incidentMark[one.state]} label={one.state} />
            </td>
            <td className="text-ink-soft">{one.by}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const select = "h-8 w-full rounded border border-rule bg-sheet px-2 text-[13px]";

function Marking() {
  const asked = new URLSearchParams(useSearch());
  const [, go] = useLocation();
  const client = useQueryClient();
  const outlets = useQuery({ queryKey: ["outlets"], queryFn: api.outlets });
  const [of, setOf] = useState<"outlet" | "device">(asked.has("device") ? "device" : "outlet");
  const [outlet, setOutlet] = useState(asked.get("outlet") ?? "");
  const [device, setDevice] = useState(asked.get("device") ?? "");
  const [window, setWindow] = useState<Window>("1");
  const [since, setSince] = useState("");
  const [until, setUntil] = useState("");
  const [title, setTitle] = useState("");
  const name = of === "outlet" ? outlet || outlets.data?.[0]?.name || "" : device;
  const about: About = of === "outlet" ? { outlet: name } : { device: name };
  const mark = useMutation({
    mutationFn: () =>
      incidents.mark({
        ...about,
        title,
        since: new Date(since).toISOString(),
        until: new Date(until).toISOString(),
      }),
    onSuccess: (made) => {
      client.invalidateQueries({ queryKey: ["incidents"] });
      go(`/incidents/${made.number}`);
    },
  });
  const field = mark.error instanceof Problem ? mark.error.more.field : undefined;
  const wrong = (which: string) => (field === which ? mark.error?.message : undefined);
  return (
    <Panel title="Mark an incident" label="Mark an incident">
      <form
        className="space-y-3 px-4 py-3"
        onSubmit={(event) => {
          event.preventDefault();
          mark.mutate();
        }}
      >
        <div className="flex flex-wrap items-end gap-4">
          <Segments
            label="About"
            value={of}
            options={[
              ["outlet", "an outlet"],
              ["device", "a device"],
            ]}
            onChange={setOf}
          />
          <div className="w-64">
            {of === "outlet" ? (
              <Labelled label="Outlet" error={wrong("outlet")}>
                {(id) => (
                  <select
                    id={id}
                    className={select}
                    value={name}
                    onChange={(event) => setOutlet(event.target.value)}
                  >
                    {outlets.data?.map((one) => (
                      <option key={one.name}>{one.name}</option>
                    ))}
                  </select>
                )}
              </Labelled>
            ) : (
              <Field
                label="Device"
                value={device}
                mono
                required
                placeholder="its key"
                error={wrong("device")}
                onChange={(event) => setDevice(event.target.value)}
              />
            )}
          </div>
          <Segments label="History shown" value={window} options={windows} onChange={setWindow} />
        </div>
        {name !== "" && (
          <SpanPlot
            about={about}
            hours={Number(window)}
            since={since === "" ? null : Date.parse(since)}
            until={until === "" ? null : Date.parse(until)}
            onSpan={(from, to) => {
              setSince(local(new Date(from)));
              setUntil(local(new Date(to)));
            }}
          />
        )}
        <div className="grid gap-3 md:grid-cols-[14rem_14rem_1fr_auto] md:items-end">
          <Field
            label="From"
            type="datetime-local"
            value={since}
            required
            error={wrong("since")}
            onChange={(event) => setSince(event.target.value)}
          />
          <Field
            label="Until"
            type="datetime-local"
            value={until}
            required
            error={wrong("until")}
            onChange={(event) => setUntil(event.target.value)}
          />
          <Field
            label="What happened"
            value={title}
            placeholder={`Trouble of ${of} ${name}`}
            onChange={(event) => setTitle(event.target.value)}
          />
          <Button look="main" type="submit" disabled={name === "" || since === "" || until === ""}>
            Mark and look
          </Button>
        </div>
        {mark.error && !field && (
          <p role="alert" className="text-[13px] text-bad">
            {mark.error.message}
          </p>
        )}
      </form>
    </Panel>
  );
}
