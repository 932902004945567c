import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Fields, type Preset, type Proposal } from "../api";
import { Button } from "../ui/button";
import { Field } from "../ui/field";
import { Panel } from "../ui/panel";
import type { StartPoint } from "./part-form";

/** Where a new inlet or outlet can begin: a pasted example, a preset with its blanks, or nothing. */
export function Start({ of, onStart }: { of: "inlet" | "outlet"; onStart: (start: StartPoint) => void }) {
  const presets = useQuery({
    queryKey: ["presets"],
    queryFn: api.presets,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [chosen, setChosen] = useState<Preset | null>(null);
  const kinds = useQuery({ queryKey: ["kinds"], queryFn: api.kinds, staleTime: Number.POSITIVE_INFINITY });
  const takes = (kinds.data ?? []).map((kind) => kind.takesApart).filter((phrase) => phrase !== "");
  const bare = (kind: string): Fields => ({ kind, [of === "inlet" ? "at" : "to"]: {} });
  return (
    <div className="space-y-4">
      {of === "outlet" && <Paste takes={takes} onStart={onStart} />}
      <Panel
        title={of === "outlet" ? "Or start from a preset" : "Start from a preset"}
        aside={
          <>
            <span>Or start empty:</span>
            {(kinds.data ?? [])
              .filter((kind) => kind[of] !== null)
              .map((kind) => (
                <Button
                  key={kind.name}
                  title={kind[of]?.description}
                  onClick={() => onStart({ content: bare(kind.name), title: `empty, of kind ${kind.name}` })}
                >
                  {kind.name}
                </Button>
              ))}
          </>
        }
      >
        <ul className="grid gap-3 px-4 py-3 md:grid-cols-2 xl:grid-cols-3">
          {(presets.data ?? [])
            .filter((preset) => preset.of === of)
            .map((preset) => (
              <li key={preset.name}>
                <button
                  type="button"
                  aria-pressed={chosen === preset}
                  onClick={() => setChosen(preset)}
                  className={`h-full w-full rounded border p-3 text-left ${chosen === preset ? "border-accent bg-accent-wash" : "border-rule hover:border-rule-strong"}`}
                >
                  <span className="font-semibold">{preset.title}</span>
                  <span className="mt-0.5 block text-[13px] text-ink-soft">{preset.about}</span>
                </button>
              </li>
            ))}
        </ul>
        {chosen && <Blanks key={chosen.name} preset={chosen} onStart={onStart} />}
      </Panel>
    </div>
  );
}

function Blanks({ preset, onStart }: { preset: Preset; onStart: (start: StartPoint) => void }) {
  const [values, setValues] = useState<Record<string, string>>({});
  const value = (name: string) =>
    values[name] ?? preset.blanks.find((one) => one.name === name)?.example ?? "";
  const fill = <T,>(template: T): T => {
    let text = JSON.stringify(template);
    for (const blank of preset.blanks)
      text = text.replaceAll(`[[${blank.name}]]`, JSON.stringify(value(blank.name)).slice(1, -1));
    return JSON.parse(text);
  };
  return (
    <form
      className="space-y-3 border-t border-rule px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault();
        const content = without(fill(preset.part));
        onStart({
          content: preset.of === "outlet" ? { ...content, preset: preset.name } : content,
          shape: preset.shape ? fill(preset.shape) : undefined,
          title: preset.title,
        });
      }}
    >
      <div className="grid gap-x-5 gap-y-3 sm:grid-cols-2">
        {preset.blanks.map((blank) => (
          <Field
            key={blank.name}
            label={blank.label}
            mono
            value={value(blank.name)}
            onChange={(event) => setValues({ ...values, [blank.name]: event.target.value })}
          />
        ))}
      </div>
      <Button type="submit" look="main">
        Continue with {preset.title}
      </Button>
    </form>
  );
}

/** What is asked for in the form itself: the name in the path, and the credential. */
function without(content: Fields): Fields {
  const next = structuredClone(content);
  for (const block of [next.at, next.to] as (Fields | undefined)[]) {
    for (const [field, value] of Object.entries(block ?? {}))
      if (value === "[[credential]]" || value === "[[name]]") delete block?.[field];
  }
  return next;
}

function Paste({ takes, onStart }: { takes: string[]; onStart: (start: StartPoint) => void }) {
  const [text, setText] = useState("");
  const paste = useMutation({ mutationFn: () => api.paste(text) });
  return (
    <Panel title="Paste an example from the destination's documentation">
      <div className="space-y-3 px-4 py-3">
        <textarea
          aria-label={`Example: ${takes.join("; or ")}`}
          className="h-28 w-full rounded border border-rule bg-sheet px-2.5 py-1.5 font-mono text-[12px]"
          spellCheck={false}
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            paste.reset();
          }}
        />
        <div className="flex items-center gap-3">
          <Button look="main" disabled={text.trim() === "" || paste.isPending} onClick={() => paste.mutate()}>
            Analyse
          </Button>
          <span className="text-[13px] text-ink-soft">{takes.join("; or ")}</span>
        </div>
        {paste.isError && (
          <p role="alert" className="text-[13px] text-bad">
            {paste.error.message}
          </p>
        )}
        {paste.data && <Apart proposal={paste.data} onStart={onStart} />}
      </div>
    </Panel>
  );
}

function Apart({ proposal, onStart }: { proposal: Proposal; onStart: (start: StartPoint) => void }) {
  const { outlet, credential, shape, found, slips } = proposal;
  const go = () => onStart({ content: outlet, shape, found: credential, title: "from what was pasted" });
  return (
    <div className="space-y-3">
      <table className="w-full">
        <tbody>
          {found.map(({ label, value }) => (
            <tr key={label} className="border-b border-rule align-top last:border-0">
              <td className="w-32 py-1 text-[13px] text-ink-soft">{label}</td>
              <td className="py-1 font-mono text-[12px] break-all whitespace-pre-wrap">{value}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {slips.length > 0 && (
        <ul className="space-y-1">
          {slips.map((slip) => (
            <li key={slip.what} className="rounded bg-wait-wash px-2.5 py-1 text-[13px] text-wait">
              <span className="font-medium">{slip.what[0]?.toUpperCase() + slip.what.slice(1)}</span>:{" "}
              {slip.mend}.
            </li>
          ))}
        </ul>
      )}
      <Button look="main" onClick={go}>
        Create outlet from this
      </Button>
    </div>
  );
}
