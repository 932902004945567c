import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Channel, type Device, type Fields, type SentByDevice } from "../api";
import { fieldOf } from "../device-fields";
import { Button } from "../ui/button";
import { useStill } from "../ui/debounced";
import { Segments } from "../ui/field";
import { Panel } from "../ui/panel";
import { Time } from "../ui/time";
import { figure, plural, unitWord } from "../words";

/** A row of the table, as it is typed. */
type Row = Record<"from" | "field" | "point" | "factor" | "unit" | "min" | "max", string> & {
  label: string | null;
};

type Target = "device" | "model" | "chosen";

const COLUMNS = [
  ["point", "Point", "w-28", "clamp-1"],
  ["field", "Field", "w-32", "power"],
  ["factor", "Factor", "w-20", "1"],
  ["unit", "Unit", "w-20", "kW"],
  ["min", "Min", "w-20", ""],
  ["max", "Max", "w-20", ""],
] as const;

/** What the device really sends, and the fields that are made of it. */
export function Channels({ device }: { device: Device }) {
  const sent = useQuery({
    queryKey: ["device", device.key, "channels"],
    queryFn: () => api.channels(device.key),
  });
  const [editing, setEditing] = useState(false);
  if (!sent.data) return null;
  const { channels, ownChannels } = sent.data;
  return (
    <Panel
      title="Channels"
      aside={
        !editing && (
          <Button onClick={() => setEditing(true)}>
            {channels.length > 0 ? "Edit channels" : "Map channels"}
          </Button>
        )
      }
    >
      {editing ? (
        <Mapping device={device} sent={sent.data} onDone={() => setEditing(false)} />
      ) : (
        <p className="px-4 py-2 text-[13px] text-ink-soft">
          {channels.length === 0
            ? "Fields are as the device sends them. Map channels to name them, convert them and assign them to points."
            : `${plural(channels.length, "field is", "fields are")} made of what it sends, by channels ${
                ownChannels ? "of its own" : `of model ${device.model}`
              }: ${channels.map(fieldOf).join(", ")}.`}
        </p>
      )}
    </Panel>
  );
}

function Mapping({ device, sent, onDone }: { device: Device; sent: SentByDevice; onDone: () => void }) {
  const client = useQueryClient();
  const [rows, setRows] = useState<Row[]>(sent.channels.map(rowOf));
  const [references, setReferences] = useState<Record<string, string>>(
    Object.fromEntries(Object.entries(device.points).map(([name, point]) => [name, point.reference ?? ""])),
  );
  const [target, setTarget] = useState<Target>(sent.ownChannels || !device.model ? "device" : "model");
  const [chosen, setChosen] = useState<string[]>([device.key]);
  const channels = rows.map(channelOf);
  const still = useStill(channels, 300);
  const preview = useQuery({
    queryKey: ["channels-preview", device.key, still],
    queryFn: () => api.previewChannels(device.key, still),
    enabled: still.length > 0 && sent.message !== null,
    placeholderData: (before) => before,
    retry: false,
  });
  const points = [...new Set(rows.map((row) => row.point).filter((name) => name !== ""))];
  const apply = useMutation({
    mutationFn: async () => {
      if (target === "model") return toModel(String(device.model), channels);
      await api.wire(target === "chosen" ? chosen : [device.key], channels);
      const said = Object.entries(references).filter(([name]) => points.includes(name));
      if (said.some(([name, reference]) => (device.points[name]?.reference ?? "") !== reference)) {
        const { model, facts, zone, installed, silentAfter } = device;
        const known = { ...device.points };
        for (const [name, reference] of said)
          known[name] = { facts: known[name]?.facts ?? {}, reference: reference || null };
        await api.know(device.key, { model, facts, zone, installed, silentAfter, points: known });
      }
    },
    onSuccess: async () => {
      await client.invalidateQueries();
      onDone();
    },
  });
  const edit = (at: number, change: Partial<Row>) =>
    setRows(rows.map((row, i) => (i === at ? { ...row, ...change } : row)));
  const taken = new Set(rows.map((row) => row.from));
  const targets: (readonly [Target, string])[] = [
    ["device", "this device"],
    ...(device.model ? [["model", `model ${device.model}`] as const] : []),
    ["chosen", "chosen devices"],
  ];
  return (
    <form
      className="grid gap-4 px-4 py-3 xl:grid-cols-[18rem_minmax(0,1fr)]"
      onSubmit={(event) => {
        event.preventDefault();
        apply.mutate();
      }}
    >
      <div>
        <h3 className="text-[13px] font-semibold">What it sends</h3>
        {sent.message === null ? (
          <p className="text-[13px] text-ink-soft">It sent no reading within thirty days.</p>
        ) : sent.trouble !== null ? (
          <p className="text-[13px] text-bad">{sent.trouble}</p>
        ) : (
          <>
            <p className="mb-1 text-[12px] text-ink-faint">
              Last reading, <Time instant={sent.at ?? ""} />. Pick the channels you want.
            </p>
            <ul className="max-h-80 overflow-y-auto border border-rule">
              {Object.entries(sent.places).map(([place, value]) => (
                <li key={place} className="border-b border-rule last:border-0">
                  <button
                    type="button"
                    className="flex w-full items-baseline gap-2 px-2 py-1 text-left font-mono text-[12px] hover:bg-inset"
                    title={taken.has(place) ? "Mapped already; pick it again for another field" : "Map it"}
                    onClick={() => setRows([...rows, picked(place)])}
                  >
                    <span className={`truncate ${taken.has(place) ? "text-ink-faint" : "text-accent"}`}>
                      {place}
                    </span>
                    <span className="ml-auto shrink-0">{shown(value)}</span>
                  </button>
                </li>
              ))}
            </ul>
          </>
        )}
      </div>
      <div className="min-w-0 space-y-3">
        <div className="overflow-x-auto">
          <table className="border-collapse text-[13px]" aria-label="Channels">
            <thead>
              <tr className="text-left text-[12px] text-ink-soft [&>th]:px-1 [&>th]:font-normal">
                <th>Channel</th>
                {COLUMNS.map(([name, title]) => (
                  <th key={name}>{title}</th>
                ))}
                <th className="pl-3">Last reading gives</th>
                <th aria-label="Remove" />
              </tr>
            </thead>
            <tbody>
              {rows.map((row, at) => {
                const made = preview.data?.[at];
                return (
                  // biome-ignore lint/suspicious/noArrayIndexKey: rows have no name of their own, and one place may stand in two
                  <tr key={at} className="[&>td]:px-1 [&>td]:py-0.5">
                    <td className="max-w-48 truncate font-mono text-[12px]" title={row.from}>
                      {row.from}
                    </td>
                    {COLUMNS.map(([name, title, width, hint]) => (
                      <td key={name}>
                        <input
                          aria-label={`${title} of ${row.from}`}
                          value={row[name]}
                          placeholder={hint}
                          spellCheck={false}
                          inputMode={
                            name === "factor" || name === "min" || name === "max" ? "decimal" : undefined
                          }
                          onChange={(event) => edit(at, { [name]: event.target.value })}
                          className={`h-7 rounded border border-rule bg-sheet px-1.5 text-[12px] placeholder:text-ink-faint ${width}`}
                        />
                        {(name === "min" || name === "max") && row.unit && (
                          <span className="ml-1 text-[12px] text-ink-soft">{unitWord(row.unit)}</span>
                        )}
                      </td>
                    ))}
                    <td className="pl-3 whitespace-nowrap">
                      {made && made.value !== null && (
                        <span className="font-medium">
                          {shown(made.value)} {made.unit && unitWord(made.unit)}
                        </span>
                      )}
                      {made?.note && <span className="ml-2 whitespace-normal text-wait">{made.note}</span>}
                    </td>
                    <td>
                      <Button
                        onClick={() => setRows(rows.filter((_, i) => i !== at))}
                        aria-label={`Remove ${row.from}`}
                      >
                        Remove
                      </Button>
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          {rows.length === 0 && <p className="text-[13px] text-ink-soft">Pick a channel on the left.</p>}
        </div>
        {preview.isError && (
          <p role="alert" className="text-[13px] text-bad">
            {preview.error.message}
          </p>
        )}
        {target === "device" && points.length > 0 && (
          <div className="flex flex-wrap gap-3">
            {points.map((point) => (
              <label key={point} className="text-[12px] text-ink-soft">
                Reference of {point}{" "}
                <input
                  value={references[point] ?? ""}
                  placeholder="meter number"
                  onChange={(event) => setReferences({ ...references, [point]: event.target.value })}
                  className="h-7 w-36 rounded border border-rule bg-sheet px-1.5 text-[12px] text-ink"
                />
              </label>
            ))}
          </div>
        )}
        <div className="flex flex-wrap items-center gap-3 border-t border-rule pt-3">
          <span className="text-[13px]">Apply to</span>
          <Segments label="Apply to" value={target} options={targets} onChange={setTarget} />
          <Button
            type="submit"
            look="main"
            disabled={apply.isPending || (target === "chosen" && chosen.length === 0)}
          >
            Apply
          </Button>
          <Button onClick={onDone}>Cancel</Button>
          {sent.ownChannels && (
            <Button
              title={`Its own channels are removed; those of its model apply, if it has any`}
              onClick={() => {
                setRows([]);
                setTarget("device");
              }}
            >
              Remove all
            </Button>
          )}
          {apply.isError && (
            <p role="alert" className="basis-full text-[13px] text-bad">
              {apply.error.message}
            </p>
          )}
        </div>
        {target === "chosen" && <Chosen model={device.model} chosen={chosen} onChange={setChosen} />}
      </div>
    </form>
  );
}

/** Devices of the same model, to choose from. */
function Chosen({
  model,
  chosen,
  onChange,
}: {
  model: string | null;
  chosen: string[];
  onChange: (keys: string[]) => void;
}) {
  const page = useQuery({
    queryKey: ["devices", "for-channels", model],
    queryFn: () => api.devices({ search: "", state: "", model: model ?? "" }),
  });
  const keys = page.data?.devices.map((one) => one.key) ?? [];
  return (
    <fieldset className="text-[13px]">
      <legend className="mb-1 text-[12px] text-ink-soft">
        {chosen.length} of {keys.length} {model ? `devices of model ${model}` : "devices"}{" "}
        <button type="button" className="text-accent underline" onClick={() => onChange(keys)}>
          choose all
        </button>
      </legend>
      <div className="grid max-h-48 grid-cols-[repeat(auto-fill,minmax(11rem,1fr))] gap-x-3 overflow-y-auto">
        {keys.map((key) => (
          <label key={key} className="flex items-center gap-1.5 truncate font-mono text-[12px]">
            <input
              type="checkbox"
              checked={chosen.includes(key)}
              onChange={(event) =>
                onChange(event.target.checked ? [...chosen, key] : chosen.filter((one) => one !== key))
              }
            />
            {key}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

async function toModel(model: string, channels: Channel[]) {
  const part = await api.part("models", model);
  return api.adoptPart("models", model, {
    content: { ...(part.content ?? {}), channels: channels.map(said) as unknown as Fields[] },
    basedOn: part.mark,
    note: "channels mapped",
  });
}

/** Without what is not said. */
const said = (channel: Channel) =>
  Object.fromEntries(Object.entries(channel).filter(([, value]) => value !== null));

const shown = (value: unknown) => (typeof value === "number" ? figure(value) : String(value));

const text = (value: number | string | null) => (value === null ? "" : String(value));

function rowOf(channel: Channel): Row {
  return {
    from: channel.from,
    field: channel.field,
    point: text(channel.point),
    factor: text(channel.factor),
    unit: text(channel.unit),
    min: text(channel.min),
    max: text(channel.max),
    label: channel.label,
  };
}

/** A row for a place that was picked: the field is named like the last part of it that is a name. */
function picked(place: string): Row {
  const last = place
    .split(".")
    .filter((one) => !/^[0-9]+$/.test(one))
    .at(-1);
  const field = (last ?? "value").replace(/[^A-Za-z0-9_]+/g, "_").replace(/^([0-9])/, "_$1");
  return { from: place, field, point: "", factor: "", unit: "", min: "", max: "", label: null };
}

/** A number that cannot be read is sent as it is, so that the service says what is wrong with it. */
function numeric(typed: string): number | null {
  const at = typed.trim().replace(",", ".");
  return at === "" ? null : Number.isNaN(Number(at)) ? (at as unknown as number) : Number(at);
}

function channelOf(row: Row): Channel {
  return {
    from: row.from,
    field: row.field,
    point: row.point || null,
    factor: numeric(row.factor),
    unit: row.unit.trim() || null,
    min: numeric(row.min),
    max: numeric(row.max),
    label: row.label,
  };
}
