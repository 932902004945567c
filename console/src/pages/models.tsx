import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { useLocation } from "wouter";
import { api, type CodecTrial, type Model, type Rereading } from "../api";
import { captured, lineOf } from "../codec-bench";
import { ModelForm, NewModelForm } from "../parts/model-form";
import { Remove } from "../parts/remove";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { Code } from "../ui/code";
import { Editor, type Finding } from "../ui/editor";
import { Mark } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { plural, took } from "../words";

const NEW = "new model";
const STARTS = {
  script: `function decodeUplink(input) {
  // input.bytes, input.fPort, input.recvTime
  return {
    data: { first: input.bytes[0] },
    warnings: [],
  };
}
`,
  layout: `fields:
  - {name: temperature, bits: 16, type: signed, scale: 0.1, unit: Cel}
  - {name: battery, bits: 8, unit: "%"}
`,
};

export function ModelsPage({ name }: { name?: string }) {
  const models = useQuery({ queryKey: ["models"], queryFn: api.models });
  const [, go] = useLocation();
  if (models.isError) return <Failure error={models.error} />;
  if (!models.data) return <Loading />;
  const model = models.data.find((one) => one.name === name) ?? (name === NEW ? undefined : models.data[0]);
  const entry = (label: string, here: boolean, aside: string) => (
    <li key={label} className="border-b border-rule last:border-0">
      <button
        type="button"
        aria-pressed={here}
        onClick={() => go(`/models/${encodeURIComponent(label)}`)}
        className={`block w-full px-4 py-2 text-left ${here ? "bg-accent-wash" : "hover:bg-inset"}`}
      >
        <span className={label === NEW ? "text-accent" : "font-semibold"}>{label}</span>
        <span className="float-right text-[13px] text-ink-soft">{aside}</span>
      </button>
    </li>
  );
  return (
    <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,2fr)_minmax(0,9fr)]">
      <Panel title={plural(models.data.length, "model", "models")}>
        <ul>
          {models.data.map((one) => entry(one.name, one === model, plural(one.devices, "device", "devices")))}
          {entry(NEW, model === undefined, "")}
        </ul>
      </Panel>
      <Bench key={model?.name ?? NEW} model={model} />
    </div>
  );
}

/** A codec beside what it makes of bytes, live. Nothing changes before it is attached. */
function Bench({ model }: { model: Model | undefined }) {
  const [, go] = useLocation();
  const [type, setType] = useState<"script" | "layout">(model?.codec ?? "script");
  const [source, setSource] = useState(model?.source ?? STARTS[type]);
  const [bytes, setBytes] = useState("");
  const [port, setPort] = useState("");
  const uplinks = useQuery({
    queryKey: ["captured", model?.name],
    queryFn: () => captured(model?.name),
    refetchOnWindowFocus: false,
  });
  const { trial, isTried } = useTrial(type, source, bytes, port);
  const findings: Finding[] = useMemo(
    () => [
      ...(trial.data?.problems ?? []).map((problem) => ({ line: problem.line, text: problem.what })),
      ...(trial.data?.errors ?? []).flatMap((error) => {
        const line = lineOf(error);
        return line === null ? [] : [{ line, text: error }];
      }),
    ],
    [trial.data],
  );
  const first = uplinks.data?.[0];
  useEffect(() => {
    if (first && bytes === "") {
      setBytes(first.bytes);
      setPort(first.port === null ? "" : String(first.port));
    }
  }, [first, bytes]);
  const input = "h-8 rounded border border-rule bg-sheet px-2.5 font-mono text-[12px]";
  return (
    <div className="space-y-4">
      {model?.codec === null && <ModelForm name={model.name} />}
      <Panel
        title={
          model
            ? model.codec === null
              ? `A codec for ${model.name}, which has none`
              : `Codec of ${model.name}`
            : "A new model's codec"
        }
        aside={
          <>
            {model && <Remove thing="models" name={model.name} onDone={() => go("/models")} />}
            <Choice
              label="Type of codec"
              value={type}
              options={["script", "layout"]}
              onChange={(next) => {
                const chosen = next === "layout" ? "layout" : "script";
                setType(chosen);
                if (chosen !== type)
                  setSource(chosen === model?.codec ? (model.source ?? "") : STARTS[chosen]);
              }}
            />
          </>
        }
      >
        <div className="grid gap-4 px-4 py-3 xl:grid-cols-[minmax(0,7fr)_minmax(0,5fr)]">
          <div>
            <Editor label="Codec" language={type} value={source} findings={findings} onChange={setSource} />
            <p className="mt-1 text-[12px] text-ink-faint">
              {type === "script"
                ? "The payload codec API TS013: decodeUplink({bytes, fPort, recvTime}) returns {data, warnings, errors}."
                : "Fields in the order of their bits; see docs/codecs.md for all that may be said."}
            </p>
          </div>
          <div className="space-y-3">
            <div className="flex flex-wrap items-end gap-2">
              <label className="grow text-[13px] text-ink-soft">
                bytes, hexadecimal or base64
                <input
                  className={`${input} w-full`}
                  value={bytes}
                  spellCheck={false}
                  onChange={(event) => setBytes(event.target.value)}
                />
              </label>
              <label className="text-[13px] text-ink-soft">
                port
                <input
                  className={`${input} block w-16`}
                  inputMode="numeric"
                  value={port}
                  onChange={(event) => setPort(event.target.value.replace(/\D/g, ""))}
                />
              </label>
            </div>
            {(uplinks.data ?? []).length > 0 && (
              <div className="flex flex-wrap items-center gap-1.5 text-[13px] text-ink-soft">
                captured:
                {uplinks.data?.map((uplink) => (
                  <button
                    key={uplink.id}
                    type="button"
                    title={uplink.bytes}
                    onClick={() => {
                      setBytes(uplink.bytes);
                      setPort(uplink.port === null ? "" : String(uplink.port));
                    }}
                    className={`rounded border px-1.5 font-mono text-[12px] ${uplink.bytes === bytes ? "border-accent text-accent" : "border-rule"}`}
                  >
                    {uplink.device}
                  </button>
                ))}
              </div>
            )}
            <Result trial={trial.data} failure={trial.error} waiting={bytes === ""} />
          </div>
        </div>
      </Panel>
      <Attach model={model} type={type} source={source} good={isTried && trial.data?.problems.length === 0} />
      {model ? (
        model.codec !== null && <ModelForm name={model.name} />
      ) : (
        <NewModelForm onMade={(made) => go(`/models/${encodeURIComponent(made)}`)} />
      )}
    </div>
  );
}

function useTrial(type: string, source: string, bytes: string, port: string) {
  const [settled, setSettled] = useState({ type, source, bytes, port });
  useEffect(() => {
    const timer = setTimeout(() => setSettled({ type, source, bytes, port }), 300);
    return () => clearTimeout(timer);
  }, [type, source, bytes, port]);
  const trial = useQuery({
    queryKey: ["trial", settled],
    queryFn: () =>
      api.tryCodec({
        type: settled.type,
        source: settled.source,
        bytes: settled.bytes,
        port: settled.port === "" ? null : Number(settled.port),
      }),
    placeholderData: (before) => before,
    retry: false,
    gcTime: 0,
  });
  /** Whether it is of the codec as it stands. */
  const isTried = settled.type === type && settled.source === source && !trial.isPlaceholderData;
  return { trial, isTried };
}

function Result({
  trial,
  failure,
  waiting,
}: {
  trial: CodecTrial | undefined;
  failure: Error | null;
  waiting: boolean;
}) {
  if (failure) return <Failure error={failure} />;
  if (!trial) return null;
  if (trial.problems.length > 0) {
    return (
      <ul className="rounded border border-bad bg-bad-wash px-3 py-2 text-[13px] text-bad">
        {trial.problems.map((problem) => (
          <li key={`${problem.line} ${problem.what}`}>
            Line {problem.line}: {problem.what}
          </li>
        ))}
      </ul>
    );
  }
  if (waiting) {
    return <Empty title="No bytes to decode yet">Paste a payload, or take one that was captured.</Empty>;
  }
  return (
    <div className="space-y-2" aria-live="polite">
      <p className="flex items-center gap-2 text-[13px] text-ink-soft">
        {trial.errors.length > 0 ? <Mark state="unreadable" /> : <Mark state="delivered" label="decoded" />}
        {plural(trial.bytes.length / 2, "byte", "bytes")}, {took(trial.micros)}
      </p>
      {trial.errors.map((error) => (
        <p key={error} className="rounded bg-bad-wash px-2.5 py-1.5 text-[13px] text-bad">
          {error}
        </p>
      ))}
      {trial.warnings.map((warning) => (
        <p key={warning} className="rounded bg-wait-wash px-2.5 py-1.5 text-[13px] text-wait">
          {warning}
        </p>
      ))}
      <Code label="Decoded data" text={JSON.stringify(trial.data, null, 2)} />
    </div>
  );
}

function Attach({
  model,
  type,
  source,
  good,
}: {
  model: Model | undefined;
  type: string;
  source: string;
  good: boolean;
}) {
  const client = useQueryClient();
  const [, go] = useLocation();
  const [name, setName] = useState(model?.name ?? "");
  const [note, setNote] = useState("");
  const attach = useMutation({
    mutationFn: () => api.attach(name, { type, source, note }),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["models"] });
      if (!model) go(`/models/${encodeURIComponent(name)}`);
    },
  });
  const unchanged = model !== undefined && model.source?.trim() === source.trim() && model.codec === type;
  const input = "h-8 rounded border border-rule bg-sheet px-2.5 text-[13px]";
  return (
    <Panel title="Apply">
      <div className="space-y-3 px-4 py-3">
        <form
          className="flex flex-wrap items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            attach.mutate();
          }}
        >
          {!model && (
            <input
              aria-label="Name of the model"
              placeholder="name of the model"
              className={input}
              value={name}
              onChange={(event) => setName(event.target.value.trim())}
            />
          )}
          <input
            aria-label="Reason for the new codec"
            placeholder="reason for the new codec"
            className={`${input} w-72`}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
          <Button type="submit" look="main" disabled={!good || unchanged || name === "" || attach.isPending}>
            Attach to {name || "the model"}
          </Button>
          <span role="status" className="text-[13px]">
            {attach.isError && <span className="text-bad">{attach.error.message}</span>}
            {attach.data && (
              <span className="text-good">
                Applied as revision {attach.data.revision}: the next uplinks are read by it.
              </span>
            )}
            {unchanged && !attach.data && <span className="text-ink-soft">It is active as it stands.</span>}
          </span>
        </form>
        {model && <Reread model={model.name} />}
      </div>
    </Panel>
  );
}

const SPANS: Record<string, number> = { "15 min": 900, "1 h": 3600, "1 day": 86_400, "7 days": 604_800 };

/** What came before the codec was mended can be read again. */
function Reread({ model }: { model: string }) {
  const [span, setSpan] = useState("1 h");
  const [correct, setCorrect] = useState(false);
  const [id, setId] = useState("");
  const start = useMutation({
    mutationFn: (dry: boolean) =>
      api.reread({
        from: new Date(Date.now() - (SPANS[span] ?? 3600) * 1000).toISOString(),
        model,
        correct,
        dry,
      }),
    onSuccess: (begun) => setId(begun.id),
  });
  const progress = useQuery({
    queryKey: ["rereading", id],
    queryFn: () => api.rereading(id),
    enabled: id !== "",
    refetchInterval: (query) => (query.state.data?.ended ? false : 300),
  });
  return (
    <div className="flex flex-wrap items-center gap-2 border-t border-rule pt-3 text-[13px]">
      Read its messages again, of the last
      <Choice
        label="span"
        value={span}
        options={Object.keys(SPANS)}
        onChange={(next) => setSpan(next || "1 h")}
      />
      <label className="flex items-center gap-1.5">
        <input type="checkbox" checked={correct} onChange={(event) => setCorrect(event.target.checked)} />
        and correct what was delivered and reads differently now
      </label>
      <Button onClick={() => start.mutate(true)}>Preview</Button>
      <Button onClick={() => start.mutate(false)}>Read again</Button>
      <span role="status" className="w-full">
        {start.isError && <span className="text-bad">{start.error.message}</span>}
        {progress.data && <Told progress={progress.data} dry={start.variables === true} />}
      </span>
    </div>
  );
}

function Told({ progress, dry }: { progress: Rereading; dry: boolean }) {
  return (
    <span className={progress.failure ? "text-bad" : progress.ended ? "text-good" : "text-ink-soft"}>
      {progress.ended ? "" : "Reading … "}
      {plural(progress.seen, "message", "messages")} looked at, {progress.read} read now, {progress.still}{" "}
      still not, {plural(progress.picked, "new delivery", "new deliveries")},{" "}
      {plural(progress.corrected, "correction", "corrections")}
      {dry && "; nothing was changed"}
      {progress.failure && `; it ended early: ${progress.failure}`}
    </span>
  );
}
