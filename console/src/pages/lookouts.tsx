import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation } from "wouter";
import { api, type Fields, type Part } from "../api";
import { picked } from "../forms/form-schema";
import { going, howOften, type Lookout, lookouts, type Sign, signOf, signs } from "../lookouts";
import { useDraft } from "../parts/draft";
import { Remove } from "../parts/remove";
import { SchemaForm } from "../parts/schema-form";
import { type PartSchema, placed } from "../parts/settings-form";
import { Button } from "../ui/button";
import { useStill } from "../ui/debounced";
import { Field, Labelled, Segments } from "../ui/field";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Since, Time } from "../ui/time";
import { WatchPlot } from "../ui/watch-plot";
import { figure, plural } from "../words";

const NEW = "new lookout";
const HOUR = 3_600_000;

const windows = [
  ["1", "last hour"],
  ["12", "last 12 hours"],
  ["24", "last day"],
  ["168", "last 7 days"],
] as const;

type Window = (typeof windows)[number][0];

/** What is watched: each lookout beside how it would have done. */
export function LookoutsPage({ name }: { name?: string }) {
  const all = useQuery({ queryKey: ["lookouts"], queryFn: lookouts.all, refetchInterval: 5000 });
  const [, go] = useLocation();
  if (all.isError && !all.data) return <Failure error={all.error} />;
  if (!all.data) return <Loading />;
  const chosen = all.data.find((one) => one.name === name) ?? (name === NEW ? undefined : all.data[0]);
  const entry = (label: string, one: Lookout | undefined) => (
    <li key={label} className="border-b border-rule last:border-0">
      <button
        type="button"
        aria-pressed={one === chosen}
        onClick={() => go(`/lookouts/${encodeURIComponent(label)}`)}
        className={`block w-full px-4 py-2 text-left ${one === chosen ? "bg-accent-wash" : "hover:bg-inset"}`}
      >
        <span className={one ? "font-semibold" : "text-accent"}>{label}</span>
        {one && one.open > 0 && (
          <span className="float-right rounded-full bg-bad-wash px-1.5 text-[12px] font-semibold text-bad">
            {one.open} raised
          </span>
        )}
        {one && <span className="block text-[12.5px] text-ink-soft">{one.goesBy}</span>}
      </button>
    </li>
  );
  return (
    <div className="space-y-4">
      <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,3fr)_minmax(0,9fr)]">
        <Panel title={plural(all.data.length, "lookout", "lookouts")}>
          <ul>
            {all.data.map((one) => entry(one.name, one))}
            {entry(NEW, undefined)}
          </ul>
        </Panel>
        {chosen ? <Known key={chosen.name} lookout={chosen} /> : <Bench key={NEW} name="" />}
      </div>
    </div>
  );
}

function Known({ lookout }: { lookout: Lookout }) {
  const part = useQuery({
    queryKey: ["part", "lookouts", lookout.name],
    queryFn: () => api.part("lookouts", lookout.name),
    refetchOnWindowFocus: false,
  });
  if (part.isError) return <Failure error={part.error} />;
  if (!part.data) return <Loading />;
  return <Bench key={part.data.mark} name={lookout.name} lookout={lookout} part={part.data} />;
}

/** The settings of a lookout over what it would have done, live. Nothing changes before it is turned on. */
function Bench({ name, lookout, part }: { name: string; lookout?: Lookout; part?: Part }) {
  const client = useQueryClient();
  const [, go] = useLocation();
  const inlets = useQuery({ queryKey: ["inlets"], queryFn: api.inlets });
  const [called, setCalled] = useState(name);
  const mine = part?.drafts.find((draft) => draft.mine);
  const [typed, setContent] = useState<Fields>(mine?.content ?? part?.content ?? {});
  const [basedOn, setBasedOn] = useState(mine?.basedOn ?? part?.mark ?? "");
  const [window, setWindow] = useState<Window>("12");
  const [key, setKey] = useState<string>();
  const content: Fields =
    typed.inlets || !inlets.data?.[0]
      ? typed
      : { inlets: [inlets.data[0].name], value: "", below: { on: 0 }, ...typed };
  const draft = useDraft("lookouts", part, content, basedOn);
  const still = useStill(JSON.stringify(content), 300);
  const ready = Array.isArray(content.inlets) && (signOf(content) === "silent" || content.value !== "");
  const rehearsal = useQuery({
    queryKey: ["rehearse-lookout", called, still, window, key],
    queryFn: () =>
      lookouts.rehearse(called || "new", {
        fields: JSON.parse(still) as Fields,
        from: new Date(Date.now() - Number(window) * HOUR).toISOString(),
        key,
      }),
    enabled: ready,
    placeholderData: (before) => before,
    retry: false,
  });
  const adopt = useMutation({
    mutationFn: () => api.adoptPart("lookouts", called, { content, basedOn, note: "" }),
    onSuccess: async () => {
      await client.invalidateQueries();
      go(`/lookouts/${encodeURIComponent(called)}`);
    },
  });
  const fits = /^[a-z][a-z0-9-]{0,62}$/.test(called);
  const problems = ready ? (rehearsal.data?.problems ?? []) : [];
  const { errors, elsewhere } = beside(problems, called || "new");
  const changed = !part || draft.changed;
  const discard = async () => {
    await api.discardDraft("lookouts", called);
    setContent(part?.content ?? {});
    setBasedOn(part?.mark ?? "");
    await client.invalidateQueries({ queryKey: ["part"] });
  };
  return (
    <div className="space-y-4">
      <Panel
        title={lookout ? lookout.name : "A new lookout"}
        aside={
          lookout && (
            <>
              <span>
                {plural(lookout.watched, "watched", "watched")}, {plural(lookout.lately, "alarm", "alarms")}{" "}
                in 7 days
                {lookout.last && ", the last "}
                {lookout.last && <Since instant={lookout.last} />}
              </span>
              <Remove thing="lookouts" name={lookout.name} onDone={() => go("/lookouts")} />
            </>
          )
        }
      >
        <form
          className="space-y-3 px-4 py-3"
          onSubmit={(event) => {
            event.preventDefault();
            adopt.mutate();
          }}
        >
          <Settings
            content={content}
            inlets={inlets.data?.map((one) => one.name) ?? []}
            errors={errors}
            onChange={setContent}
            called={called}
            onCalled={part ? undefined : setCalled}
            wrong={called !== "" && !fits}
          />
          {elsewhere.map((what) => (
            <p key={what} role="alert" className="text-[13px] whitespace-pre-wrap text-bad">
              {what}
            </p>
          ))}
          <div className="flex items-center gap-3">
            <Button
              type="submit"
              look="main"
              disabled={!fits || !ready || !changed || problems.length > 0 || adopt.isPending}
            >
              {part ? "Apply" : "Create lookout"}
            </Button>
            {draft.changed && (
              <Button type="button" onClick={discard}>
                Discard the draft
              </Button>
            )}
            <span className="text-[13px] text-ink-soft" role="status">
              {adopt.error || draft.error ? (
                <span className="text-bad">{(adopt.error ?? draft.error)?.message}</span>
              ) : draft.changed ? (
                `Not active; ${draft.kept}.`
              ) : (
                "Its alarms are messages of type alarm by the inlet holtra; a lane carries them on."
              )}
            </span>
          </div>
        </form>
      </Panel>
      <Panel
        title="Rehearsal"
        label="Rehearsal"
        aside={<Segments label="over" value={window} options={windows} onChange={setWindow} />}
      >
        {!ready ? (
          <Empty title="No value to watch yet.">
            Choose a field with numbers; its values of last night are drawn here, with the alarms it would
            have had.
          </Empty>
        ) : (
          <Done failure={rehearsal.error} rehearsal={rehearsal.data} content={content} onKey={setKey} />
        )}
      </Panel>
    </div>
  );
}

/** What is wrong with fields of the scope stands beside them, everything else below the form. */
function beside(problems: { where: string; what: string }[], name: string) {
  const { errors, rest } = placed(problems, `lookouts.${name}`);
  const elsewhere = Object.entries(errors).filter(([at]) => !SCOPE.includes(at.split(".")[0] ?? ""));
  return { errors, elsewhere: [...elsewhere.map(([, what]) => what), ...rest] };
}

const block = (content: Fields, name: string) => (content[name] as Record<string, unknown> | undefined) ?? {};

function Settings({
  content,
  inlets,
  errors,
  onChange,
  called,
  onCalled,
  wrong,
}: {
  content: Fields;
  errors: Record<string, string>;
  inlets: string[];
  onChange: (next: Fields) => void;
  called: string;
  onCalled?: (name: string) => void;
  wrong: boolean;
}) {
  const sign = signOf(content);
  const chosen = (content.inlets as string[] | undefined) ?? [];
  const fields = useQuery({
    queryKey: ["known-fields", chosen, content.per ?? ""],
    queryFn: () => api.knownFields(chosen, content.per === "point" ? "point" : "message"),
    enabled: chosen.length > 0,
  });
  const set = (name: string, value: unknown) => {
    const { [name]: _, ...rest } = content;
    onChange(value === "" || value === undefined ? rest : { ...content, [name]: value });
  };
  const inside = (name: string, value: unknown) => {
    const { [name]: _, ...rest } = block(content, sign);
    onChange({ ...content, [sign]: value === "" || Number.isNaN(value) ? rest : { ...rest, [name]: value } });
  };
  const number = (label: string, name: string, hint?: string) => (
    <Field
      label={label}
      hint={hint}
      type="number"
      step="any"
      value={String(block(content, sign)[name] ?? "")}
      onChange={(event) => inside(name, event.target.value === "" ? "" : Number(event.target.value))}
    />
  );
  const length = (label: string, name: string, hint?: string) => (
    <Field
      label={label}
      hint={hint}
      placeholder="10m"
      value={String(block(content, sign)[name] ?? "")}
      onChange={(event) => inside(name, event.target.value)}
    />
  );
  const select = "h-8 w-full rounded border border-rule bg-sheet px-2 text-[13px]";
  return (
    <>
      <div className="grid gap-3 md:grid-cols-3">
        {onCalled && (
          <Field
            label="Name"
            placeholder="frost"
            value={called}
            error={wrong ? "Lower-case letters, digits and dashes, beginning with a letter." : undefined}
            onChange={(event) => onCalled(event.target.value)}
          />
        )}
        <Inlets all={inlets} chosen={chosen} onChange={(next) => set("inlets", next)} />
      </div>
      <Segments
        label="Sign"
        value={sign}
        options={signs}
        onChange={(next: Sign) => {
          const other = going(content, next);
          onChange(next === "silent" ? other : { ...other, value: content.value ?? "" });
        }}
      />
      <div className="grid gap-3 md:grid-cols-3 xl:grid-cols-5">
        {sign !== "silent" && (
          <Labelled label="Value" hint="A field, or an expression over data, meta and device.">
            {(id, described) => (
              <>
                <input
                  id={id}
                  aria-describedby={described}
                  list={`${id}-fields`}
                  className={`${select} font-mono text-[12px]`}
                  placeholder="data.wetBulb"
                  value={String(content.value ?? "")}
                  onChange={(event) => onChange({ ...content, value: event.target.value })}
                />
                <datalist id={`${id}-fields`}>
                  {fields.data
                    ?.filter((one) => one.kind === "number")
                    .map((one) => (
                      <option key={one.path} value={one.path}>
                        {`${one.label ?? ""} ${typeof one.last === "number" ? figure(one.last) : ""}`}
                      </option>
                    ))}
                </datalist>
              </>
            )}
          </Labelled>
        )}
        {(sign === "above" || sign === "below") && (
          <>
            {number(`Raised at or ${sign}`, "on")}
            {number(
              `Cleared at or ${sign === "above" ? "below" : "above"}`,
              "off",
              "So that a value which wavers raises one alarm.",
            )}
          </>
        )}
        {(sign === "rises" || sign === "falls") && (
          <>
            {number("By so much", "by")}
            {length("Within", "within")}
          </>
        )}
        {sign === "stuck" && (
          <>
            {length("For so long", "after")}
            {number("Moving by no more than", "band")}
          </>
        )}
        {sign === "silent" && (
          <Field
            label="Silent for"
            hint="A length such as 3h, or rhythm: three times as long as each one's own pauses."
            value={String(content.silent ?? "")}
            onChange={(event) => onChange({ ...content, silent: event.target.value })}
          />
        )}
        {sign !== "silent" && (
          <Field
            label="For at least"
            placeholder="0s"
            value={String(content.hold ?? "")}
            onChange={(event) => set("hold", event.target.value)}
          />
        )}
        <Field
          label="Do not raise again for"
          placeholder="0s"
          hint="Counted from when it cleared."
          value={String(content.quiet ?? "")}
          onChange={(event) => set("quiet", event.target.value)}
        />
      </div>
      <Scope content={content} errors={errors} onChange={onChange} />
    </>
  );
}

function Inlets({
  all,
  chosen,
  onChange,
}: {
  all: string[];
  chosen: string[];
  onChange: (next: string[]) => void;
}) {
  const known = [...all, ...chosen.filter((one) => !all.includes(one))];
  return (
    <fieldset className="md:col-span-2">
      <legend className="mb-0.5 text-[13px] font-medium">Inlets</legend>
      <div className="flex min-h-8 flex-wrap items-center gap-x-4 gap-y-1">
        {known.map((one) => (
          <label key={one} className="flex items-center gap-1.5 text-[13px]">
            <input
              type="checkbox"
              className="size-4 accent-(--accent)"
              checked={chosen.includes(one)}
              onChange={(event) =>
                onChange(
                  known.filter((name) => (name === one ? event.target.checked : chosen.includes(name))),
                )
              }
            />
            {one}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

/** Which of the inlets' messages are looked at, and by what they are told apart. */
const SCOPE = ["devices", "pick", "per", "key", "lateness"];

function Scope({
  content,
  errors,
  onChange,
}: {
  content: Fields;
  errors: Record<string, string>;
  onChange: (next: Fields) => void;
}) {
  const schema = useQuery({
    queryKey: ["setup-schema"],
    queryFn: api.setupSchema,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const said = SCOPE.filter((name) => name in content);
  const wrong = Object.keys(errors).some((at) => SCOPE.includes(at.split(".")[0] ?? ""));
  if (!schema.data) return null;
  const { lookout, ...definitions } = (schema.data as unknown as { $defs: Record<string, PartSchema> }).$defs;
  if (!lookout) return null;
  const rest = Object.keys(content).filter((name) => !SCOPE.includes(name));
  return (
    <details open={wrong || undefined} className="border-t border-rule pt-3">
      <summary className="mb-2 cursor-pointer text-[13px] font-semibold">
        Devices, condition, alarm key and lateness
        <span className="ml-2 font-normal text-ink-soft">
          {said.length === 0
            ? "all messages of the inlets, one alarm for each device"
            : `set: ${said.join(", ")}`}
        </span>
      </summary>
      <SchemaForm
        schema={lookout}
        definitions={definitions}
        value={content}
        path=""
        only={SCOPE}
        errors={errors}
        onChange={(next) => onChange({ ...picked(content, rest), ...next })}
      />
    </details>
  );
}

function Done({
  failure,
  rehearsal,
  content,
  onKey,
}: {
  failure: Error | null;
  rehearsal: Awaited<ReturnType<typeof lookouts.rehearse>> | undefined;
  content: Fields;
  onKey: (key: string) => void;
}) {
  const found = rehearsal?.rehearsed;
  if (failure) return <Failure error={failure} />;
  if (!found) {
    return (
      <div className="grid h-[240px] place-content-center text-[13px] text-ink-soft" role="status">
        Running the lookout over past messages …
      </div>
    );
  }
  if (found.messages === 0)
    return (
      <Empty title="The lookout watches no message of this time span.">
        Messages of its inlets and devices are looked at; choose a longer time, or other devices.
      </Empty>
    );
  const spans = found.alarms
    .filter((one) => one.key === found.shown)
    .map((one) => ({ from: one.since, to: one.cleared }));
  return (
    <div className="space-y-3 px-4 py-3">
      <p className="font-medium" aria-live="polite">
        {howOften(found)}
        {found.cut && (
          <span className="font-normal text-ink-soft"> Of the latest 20,000 messages of each inlet.</span>
        )}
      </p>
      {found.values.length > 0 && (
        <WatchPlot
          label={`${String(content.value)} of ${found.shown}`}
          values={found.values}
          on={rehearsal?.on ?? null}
          off={rehearsal?.off ?? null}
          spans={spans}
          from={found.from}
          to={found.to}
        />
      )}
      <div className="grid gap-4 md:grid-cols-2">
        <div>
          <h3 className="mb-1 text-[13px] font-semibold">Watched</h3>
          <ul className="max-h-56 overflow-auto">
            {found.keys.map((one) => (
              <li key={one.key}>
                <button
                  type="button"
                  aria-pressed={one.key === found.shown}
                  onClick={() => onKey(one.key)}
                  className={`flex w-full justify-between rounded px-2 py-0.5 text-left text-[13px] ${one.key === found.shown ? "bg-accent-wash" : "hover:bg-inset"}`}
                >
                  <span>{one.key || "(no device)"}</span>
                  <span className="text-ink-soft">
                    {one.raised > 0 ? plural(one.raised, "alarm", "alarms") : "none"},{" "}
                    {plural(one.messages, "message", "messages")}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </div>
        <div>
          <h3 className="mb-1 text-[13px] font-semibold">Alarms it would have raised</h3>
          <ul className="max-h-56 overflow-auto text-[13px]">
            {found.alarms.map((one) => (
              <li key={`${one.key} ${one.raised}`} className="px-2 py-0.5">
                {one.key}: <Time instant={one.raised} /> to{" "}
                {one.cleared ? <Time instant={one.cleared} /> : "now"}
                {one.extreme !== null && `, ${figure(one.extreme)}`}
              </li>
            ))}
            {found.alarms.length === 0 && <li className="px-2 text-ink-soft">none</li>}
          </ul>
        </div>
      </div>
      {found.alarms.length > 0 && (
        <p className="text-[13px] text-ink-soft">
          What it raises in earnest is on the page{" "}
          <Link href="/alarms" className="text-accent hover:underline">
            Alarms
          </Link>
          .
        </p>
      )}
    </div>
  );
}
