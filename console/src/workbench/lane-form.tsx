import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { api, type Fields, type KnownField, type SetupProblem } from "../api";
import { complete, insideHole } from "../completion";
import { NewOutlet } from "../parts/new-outlet";
import { shapeOf, shapeText } from "../shape-text";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { Sheet } from "../ui/dialog";
import { Editor } from "../ui/editor";
import { Field, Labelled, Segments } from "../ui/field";
import { Panel } from "../ui/panel";
import { HitsLine } from "./hits";
import { MappingView } from "./mapping-view";
import { MemoryForm } from "./memory-form";

/** The lane itself: where from, which devices, which messages, in what form, where to. */
export function LaneForm({
  name,
  lane,
  problems,
  onChange,
  onSubject,
}: {
  name: string;
  lane: Fields;
  problems: SetupProblem[];
  onChange: (lane: Fields) => void;
  onSubject: (message: string) => void;
}) {
  const inlets = (lane.inlets as string[] | undefined) ?? [];
  const per = lane.per === "point" ? "point" : "message";
  const known = useQuery({
    queryKey: ["workbench", "known", inlets, per],
    queryFn: () => api.knownFields(inlets, per),
    enabled: inlets.length > 0,
    staleTime: 10_000,
    placeholderData: (before) => before,
  });
  const schema = useQuery({ queryKey: ["lookups"], queryFn: tablesOf, staleTime: 30_000 });
  const fields = known.data ?? [];
  const tables = schema.data ?? [];
  const put = (change: Fields) => {
    const next = { ...lane, ...change };
    for (const [field, value] of Object.entries(next)) if (value === undefined) delete next[field];
    onChange(next);
  };
  const wrong = (field: string) =>
    problems
      .filter((problem) => problem.where === `lanes.${name}.${field}`)
      .map((problem) => problem.what)
      .join("\n") || undefined;
  return (
    <Panel title="Lane">
      <div className="space-y-4 px-4 py-3">
        <Ends lane={lane} put={put} wrong={wrong} />
        <Devices lane={lane} put={put} wrong={wrong} fields={fields} />
        <div>
          <h3 className="mb-1 text-[13px] font-medium">which messages: the condition</h3>
          <Editor
            label="Condition"
            language="expression"
            height="low"
            value={(lane.pick as string | boolean | undefined)?.toString() ?? ""}
            findings={problems
              .filter((problem) => problem.where === `lanes.${name}.pick`)
              .map((problem) => ({ line: 1, text: problem.what }))}
            onChange={(pick) => put({ pick: pick.trim() === "" ? undefined : pick })}
            completer={(before) => complete(before, fields, tables)}
          />
          {wrong("pick") ? (
            <p role="alert" className="mt-1 font-mono text-[12px] whitespace-pre-wrap text-bad">
              {wrong("pick")}
            </p>
          ) : (
            <div className="mt-1.5">
              {lane.pick === undefined && (
                <p className="text-[12.5px] text-ink-soft">
                  Without a condition every message is picked. Begin to type a field's name.
                </p>
              )}
              <HitsLine name={name} lane={lane} onSubject={onSubject} />
            </div>
          )}
        </div>
        {per === "message" && (
          <MemoryForm
            name={name}
            memory={lane.memory as Fields | undefined}
            problems={problems}
            onChange={(memory) => put({ memory })}
          />
        )}
        <ShapeEditor name={name} lane={lane} put={put} problems={problems} fields={fields} tables={tables} />
      </div>
    </Panel>
  );
}

async function tablesOf(): Promise<string[]> {
  return (await api.tables()).map((table) => table.name);
}

type Put = (change: Fields) => void;

function Ends({
  lane,
  put,
  wrong,
}: {
  lane: Fields;
  put: Put;
  wrong: (field: string) => string | undefined;
}) {
  const inlets = useQuery({ queryKey: ["inlets"], queryFn: api.inlets });
  const outlets = useQuery({ queryKey: ["outlets"], queryFn: api.outlets });
  const chosen = (lane.inlets as string[] | undefined) ?? [];
  const [making, setMaking] = useState(false);
  return (
    <div className="grid gap-3 sm:grid-cols-2">
      <fieldset>
        <legend className="mb-0.5 text-[13px] font-medium">from inlets</legend>
        <div className="flex flex-wrap gap-x-3 gap-y-1">
          {[...new Set([...(inlets.data ?? []).map((one) => one.name), ...chosen])].map((inlet) => (
            <label key={inlet} className="flex items-center gap-1.5 text-[13px]">
              <input
                type="checkbox"
                checked={chosen.includes(inlet)}
                onChange={(event) =>
                  put({
                    inlets: event.target.checked ? [...chosen, inlet] : chosen.filter((one) => one !== inlet),
                  })
                }
              />
              {inlet}
            </label>
          ))}
        </div>
        {wrong("inlets") && <p className="text-[12px] text-bad">{wrong("inlets")}</p>}
      </fieldset>
      <Labelled label="to outlet" error={wrong("outlet")}>
        {() => (
          <div className="flex flex-wrap items-center gap-2">
            <Choice
              label="outlet"
              value={(lane.outlet as string) ?? ""}
              options={(outlets.data ?? []).map((one) => one.name)}
              onChange={(outlet) => put({ outlet: outlet || undefined })}
            />
            <Button onClick={() => setMaking(true)}>New outlet</Button>
          </div>
        )}
      </Labelled>
      <Sheet
        wide
        open={making}
        onClose={() => setMaking(false)}
        title="New outlet"
        about="It is active once applied; nothing is sent before this lane is."
      >
        <NewOutlet
          onMade={(outlet, shape) => {
            put(shape && lane.shape === undefined ? { outlet, shape } : { outlet });
            setMaking(false);
          }}
        />
      </Sheet>
    </div>
  );
}

type DevicesPart = { where?: string; only?: string[] };

function Devices({
  lane,
  put,
  wrong,
  fields,
}: {
  lane: Fields;
  put: Put;
  wrong: (field: string) => string | undefined;
  fields: KnownField[];
}) {
  const devices = (lane.devices as DevicesPart | undefined) ?? {};
  const way = devices.only ? "only" : devices.where !== undefined ? "where" : "all";
  const [search, setSearch] = useState("");
  const registry = useQuery({
    queryKey: ["devices", search],
    queryFn: () => api.devices({ search, state: "", model: "" }),
    enabled: way === "only",
    placeholderData: keepPreviousData,
  });
  const only = devices.only ?? [];
  const found = registry.data?.devices ?? [];
  return (
    <div>
      <div className="flex flex-wrap items-center gap-2">
        <h3 className="text-[13px] font-medium">which devices</h3>
        <Segments
          label="Which devices"
          value={way}
          options={[
            ["all", "all"],
            ["where", "by condition"],
            ["only", "hand-picked"],
          ]}
          onChange={(next) =>
            put({ devices: next === "all" ? undefined : next === "where" ? { where: "" } : { only: [] } })
          }
        />
        <Segments
          label="One delivery for each"
          value={lane.per === "point" ? "point" : "message"}
          options={[
            ["message", "once a message"],
            ["point", "once a point"],
          ]}
          onChange={(per) => put({ per: per === "point" ? "point" : undefined })}
        />
      </div>
      {way === "where" && (
        <div className="mt-1.5">
          <Editor
            label="Condition on devices"
            language="expression"
            height="low"
            value={devices.where ?? ""}
            findings={[]}
            onChange={(where) => put({ devices: { where } })}
            completer={(before) =>
              complete(
                before,
                fields.filter((field) => field.path.startsWith("device.")),
                [],
              )
            }
          />
          {wrong("devices.where") && (
            <p role="alert" className="mt-1 font-mono text-[12px] whitespace-pre-wrap text-bad">
              {wrong("devices.where")}
            </p>
          )}
        </div>
      )}
      {way === "only" && (
        <div className="mt-1.5 rounded border border-rule">
          <div className="border-b border-rule p-1.5">
            <Field
              label={`${only.length} picked`}
              placeholder="look for a key or a model"
              value={search}
              onChange={(event) => setSearch(event.target.value)}
            />
          </div>
          <ul className="max-h-36 overflow-auto px-2 py-1">
            {found.slice(0, 200).map((device) => (
              <li key={device.key}>
                <label className="flex items-center gap-2 text-[12.5px]">
                  <input
                    type="checkbox"
                    checked={only.includes(device.key)}
                    onChange={(event) =>
                      put({
                        devices: {
                          only: event.target.checked
                            ? [...only, device.key]
                            : only.filter((key) => key !== device.key),
                        },
                      })
                    }
                  />
                  <span className="font-mono">{device.key}</span>
                  <span className="text-ink-soft">{device.model}</span>
                </label>
              </li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}

function ShapeEditor({
  name,
  lane,
  put,
  problems,
  fields,
  tables,
}: {
  name: string;
  lane: Fields;
  put: Put;
  problems: SetupProblem[];
  fields: KnownField[];
  tables: string[];
}) {
  const shape = lane.shape as Fields | undefined;
  const [view, setView] = useState<"fields" | "text">("text");
  const [text, setText] = useState(() => shapeText(shape));
  const parsed = useMemo(() => shapeOf(text), [text]);
  const same = JSON.stringify(parsed.value ?? null) === JSON.stringify(shape ?? null);
  // The shape changed elsewhere: in the table of fields, by a preset, by going back to what is active.
  useEffect(() => {
    if (!same && parsed.error === null) setText(shapeText(shape));
  }, [shape, same, parsed.error]);
  const prefix = `lanes.${name}.shape`;
  const wrong = problems.filter((problem) => problem.where.startsWith(prefix));
  const findings = [
    ...(parsed.error ? [parsed.error] : []),
    ...wrong.map((problem) => ({
      line: lineOfField(text, problem.where.slice(prefix.length + 1)),
      text: problem.what,
    })),
  ];
  const type = (next: string) => {
    setText(next);
    const found = shapeOf(next);
    if (found.error === null) put({ shape: found.value });
  };
  return (
    <div>
      <div className="mb-1 flex items-center gap-2">
        <h3 className="text-[13px] font-medium">in what form: the shape</h3>
        <div className="ml-auto">
          <Segments
            label="How the shape is edited"
            value={view}
            options={[
              ["fields", "fields"],
              ["text", "text"],
            ]}
            onChange={setView}
          />
        </div>
      </div>
      {view === "fields" ? (
        <MappingView shape={shape} fields={fields} onChange={(next) => put({ shape: next })} />
      ) : (
        <>
          <Editor
            label="Shape"
            language="shape"
            height="middle"
            value={text}
            findings={findings}
            onChange={type}
            completer={(before) => (insideHole(before) ? complete(before, fields, tables) : null)}
          />
          {shape === undefined && text === "" && (
            <p className="mt-1 text-[12.5px] text-ink-soft">
              Without a shape the data are sent as they were read. Write{" "}
              <code className="font-mono">body:</code>, or join fields under “fields”.
            </p>
          )}
        </>
      )}
      {(parsed.error || wrong.length > 0) && (
        <ul role="alert" className="mt-1 space-y-0.5 text-[12px] text-bad">
          {parsed.error && (
            <li>
              line {parsed.error.line}: {parsed.error.text}
            </li>
          )}
          {wrong.map((problem) => (
            <li key={problem.where + problem.what} className="whitespace-pre-wrap">
              <span className="font-mono">{problem.where.slice(prefix.length + 1) || "shape"}</span>:{" "}
              {problem.what}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** The line on which a field of a YAML text stands, by the last name of its path; the first line if it is not found. */
export function lineOfField(text: string, path: string): number {
  const lines = text.split("\n");
  let at = 0;
  for (const name of path.split(".")) {
    const found = lines.findIndex(
      (line, i) => i >= at && line.replace(/^[\s-]*["']?/, "").startsWith(name) && /["']?\s*:/.test(line),
    );
    if (found >= 0) at = found;
  }
  return at + 1;
}
