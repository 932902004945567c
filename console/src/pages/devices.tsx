import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Tabs } from "radix-ui";
import { useState } from "react";
import { Link, useSearchParams } from "wouter";
import { api, type Device, type Facts } from "../api";
import { factValue } from "../facts";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { PlainMap } from "../ui/map";
import { Mark, Simulated } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Since } from "../ui/time";
import { count, plural } from "../words";

const STATES = ["live", "silent", "unheard", "barred"];
export function DevicesPage() {
  const [parameters, setParameters] = useSearchParams();
  const search = parameters.get("search") ?? "";
  const state = parameters.get("state") ?? "";
  const model = parameters.get("model") ?? "";
  const [pages, setPages] = useState<string[]>([]);
  const after = pages.at(-1) ?? "";
  const devices = useQuery({
    queryKey: ["devices", search, state, model, after],
    queryFn: () => api.devices({ search, state, model }, after),
    refetchInterval: 3000,
    placeholderData: keepPreviousData,
  });
  const change = (name: string, value: string) => {
    setPages([]);
    setParameters(
      (before) => {
        const next = new URLSearchParams(before);
        if (value === "") next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  };
  if (devices.isError && !devices.data) return <Failure error={devices.error} />;
  if (!devices.data) return <Loading />;
  const { devices: found, total, next, models } = devices.data;
  const isFiltered = search !== "" || state !== "" || model !== "";
  return (
    <Tabs.Root defaultValue="list">
      <Panel
        label="Devices"
        title={plural(total, "device", "devices")}
        aside={
          <>
            <input
              aria-label="Search in keys, models and facts"
              placeholder="key, model or fact"
              value={search}
              onChange={(event) => change("search", event.target.value)}
              className="h-8 w-52 rounded border border-rule bg-sheet px-2.5 text-[13px] placeholder:text-ink-soft"
            />
            <Choice label="state" value={state} options={STATES} onChange={(next) => change("state", next)} />
            <Choice label="model" value={model} options={models} onChange={(next) => change("model", next)} />
            <Tabs.List className="ml-3 flex flex-wrap gap-1" aria-label="Views">
              {["list", "map", "table"].map((name) => (
                <Tabs.Trigger
                  key={name}
                  value={name}
                  className="h-8 rounded px-2.5 text-[13px] text-ink-soft data-[state=active]:bg-accent-wash data-[state=active]:font-medium data-[state=active]:text-accent"
                >
                  {name}
                </Tabs.Trigger>
              ))}
            </Tabs.List>
          </>
        }
      >
        <Tabs.Content value="list">
          {total === 0 && !isFiltered ? (
            <Empty title="No devices yet">
              Devices appear by themselves when an inlet that admits unknown devices hears them.{" "}
              <Link href="/inlets" className="underline underline-offset-2">
                Look at the inlets
              </Link>
            </Empty>
          ) : (
            <>
              <List devices={found} />
              {(next !== null || pages.length > 0) && (
                <nav aria-label="Pages" className="flex items-center gap-2 border-t border-rule px-4 py-2">
                  <Button disabled={pages.length === 0} onClick={() => setPages(pages.slice(0, -1))}>
                    Previous
                  </Button>
                  <Button
                    disabled={next === null}
                    onClick={() => next !== null && setPages([...pages, next])}
                  >
                    Next
                  </Button>
                  <span className="text-[13px] text-ink-soft">
                    Page {pages.length + 1}, {count(found.length)} of {count(total)}
                  </span>
                </nav>
              )}
            </>
          )}
        </Tabs.Content>
        <Tabs.Content value="map">
          <Positions shown={isFiltered ? new Set(found.map((device) => device.key)) : null} />
        </Tabs.Content>
        <Tabs.Content value="table">
          <Table />
        </Tabs.Content>
      </Panel>
    </Tabs.Root>
  );
}

function List({ devices }: { devices: Device[] }) {
  const [ticked, setTicked] = useState<Set<string>>(new Set());
  const all = devices.length > 0 && devices.every((device) => ticked.has(device.key));
  const tick = (key: string) =>
    setTicked((before) => {
      const next = new Set(before);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  if (devices.length === 0) {
    return <Empty title="No device matches">Search for less, or choose another state.</Empty>;
  }
  return (
    <>
      <Together devices={devices.filter((device) => ticked.has(device.key))} />
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-rule [&>th]:px-3 [&>th]:py-1.5">
            <th className="w-8">
              <input
                type="checkbox"
                aria-label="All"
                checked={all}
                onChange={() => setTicked(all ? new Set() : new Set(devices.map((device) => device.key)))}
              />
            </th>
            <th>Device</th>
            <th>State</th>
            <th>Model</th>
            <th>Last heard</th>
            <th className="text-right!">Messages</th>
            <th className="text-right!" title="Missing sequence numbers">
              Missing
            </th>
            <th className="text-right!">Battery</th>
            <th className="text-right!">Link</th>
            <th>Facts</th>
          </tr>
        </thead>
        <tbody>
          {devices.map((device) => (
            <tr
              key={device.key}
              className="border-b border-rule last:border-0 hover:bg-inset [&>td]:px-3 [&>td]:py-1"
            >
              <td>
                <input
                  type="checkbox"
                  aria-label={device.key}
                  checked={ticked.has(device.key)}
                  onChange={() => tick(device.key)}
                />
              </td>
              <td className="whitespace-nowrap">
                <Link
                  href={`/devices/${encodeURIComponent(device.key)}`}
                  className="font-mono text-[13px] text-accent underline underline-offset-2"
                >
                  {device.key}
                </Link>{" "}
                {device.simulated && <Simulated />}
              </td>
              <td>
                <Mark state={device.state} />
              </td>
              <td>{device.model ?? <span className="text-ink-faint">none</span>}</td>
              <td className="text-ink-soft">
                {device.lastHeard ? <Since instant={device.lastHeard} /> : "–"}
              </td>
              <td className="text-right">{count(device.messages)}</td>
              <td className="text-right">{device.missing === 0 ? "" : count(device.missing)}</td>
              <td className="text-right">
                {device.shows.battery === undefined ? "" : `${device.shows.battery}%`}
              </td>
              <td className="text-right text-ink-soft">
                {device.shows.link === undefined ? "" : `${device.shows.link} dBm`}
              </td>
              <td className="max-w-md truncate text-[13px] text-ink-soft">{factLine(device.facts)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

const factLine = (facts: Facts) =>
  Object.keys(facts)
    .filter((name) => name !== "latitude" && name !== "longitude")
    .sort()
    .map((name) => `${name} ${facts[name]}`)
    .join(", ");

/** A fact for all that are ticked. */
function Together({ devices }: { devices: Device[] }) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const [value, setValue] = useState("");
  const set = useMutation({
    mutationFn: async () => {
      for (const device of devices) {
        const { model, points, zone, installed, silentAfter } = device;
        const facts = { ...device.facts };
        if (value === "") delete facts[name];
        else facts[name] = factValue(value);
        await api.know(device.key, { model, points, zone, installed, silentAfter, facts });
      }
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ["devices"] }),
  });
  if (devices.length === 0) return null;
  const field = "h-8 rounded border border-rule bg-sheet px-2.5 text-[13px]";
  return (
    <form
      className="flex flex-wrap items-center gap-2 border-b border-rule bg-accent-wash px-4 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() !== "") set.mutate();
      }}
    >
      <span className="text-[13px]">For {plural(devices.length, "device", "devices")}, the fact</span>
      <input
        aria-label="Name of the fact"
        placeholder="name"
        className={`${field} w-36`}
        value={name}
        onChange={(event) => setName(event.target.value.trim())}
      />
      <span className="text-[13px]">is</span>
      <input
        aria-label="Value; leave empty to remove it"
        placeholder="value; empty removes it"
        className={`${field} w-56`}
        value={value}
        onChange={(event) => setValue(event.target.value)}
      />
      <Button type="submit" look="main" disabled={name === "" || set.isPending}>
        Set
      </Button>
      <span role="status" className="text-[13px]">
        {set.isSuccess && <span className="text-good">done</span>}
        {set.isError && <span className="text-bad">{set.error.message}</span>}
      </span>
    </form>
  );
}

/** @param shown null for all */
function Positions({ shown }: { shown: Set<string> | null }) {
  const positions = useQuery({ queryKey: ["positions"], queryFn: api.positions, refetchInterval: 10_000 });
  if (positions.isError) return <Failure error={positions.error} />;
  if (!positions.data) return <Loading />;
  const features = positions.data.features.filter(
    (one) => one.properties.type === "gateway" || shown === null || shown.has(one.properties.name),
  );
  if (features.length === 0) {
    return (
      <Empty title="No positions known">
        A device has one where its model says which fields are latitude and longitude, or where its facts do.
      </Empty>
    );
  }
  return <PlainMap positions={features} />;
}

function Table() {
  const client = useQueryClient();
  const [csv, setCsv] = useState("");
  const take = useMutation({
    mutationFn: (dry: boolean) => api.takeTable(csv, dry),
    onSuccess: (_, dry) => {
      if (!dry) client.invalidateQueries({ queryKey: ["devices"] });
    },
  });
  const misfits = take.data?.misfits ?? [];
  return (
    <div className="space-y-3 px-4 py-3">
      <p className="text-ink-soft">
        What is known of all devices as a table:{" "}
        <a
          href="/api/v1/devices/table"
          download="devices.csv"
          className="text-accent underline underline-offset-2"
        >
          download it as CSV
        </a>
        , change it in any spreadsheet, and paste or choose it here. Columns that are not there leave things
        as they are; an empty cell takes a fact away.
      </p>
      <input
        type="file"
        accept=".csv,text/csv"
        aria-label="Choose a table"
        onChange={async (event) => {
          const file = event.target.files?.[0];
          if (file) setCsv(await file.text());
        }}
      />
      <textarea
        aria-label="Table in CSV"
        rows={12}
        spellCheck={false}
        value={csv}
        onChange={(event) => setCsv(event.target.value)}
        placeholder={"key,model,fact:orchard,fact:row\ncs-61,climate-station,Ashcombe,16"}
        className="w-full rounded border border-rule bg-sheet px-3 py-2 font-mono text-[12px]"
      />
      <div className="flex items-center gap-3">
        <Button disabled={csv === ""} onClick={() => take.mutate(true)}>
          Check
        </Button>
        <Button look="main" disabled={csv === ""} onClick={() => take.mutate(false)}>
          Take in
        </Button>
        <span role="status" className="text-[13px]">
          {take.isError && <span className="text-bad">{take.error.message}</span>}
          {take.data && misfits.length === 0 && (
            <span className="text-good">
              {take.variables ? "Would change" : "Changed"} {take.data.changed},{" "}
              {take.variables ? "enter" : "entered"} {take.data.entered}.
            </span>
          )}
        </span>
      </div>
      {misfits.length > 0 && (
        <ul className="rounded border border-bad bg-bad-wash px-3 py-2 text-[13px] text-bad">
          {misfits.map((misfit) => (
            <li key={`${misfit.line} ${misfit.column}`}>
              Line {misfit.line}, {misfit.column}: {misfit.what}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
