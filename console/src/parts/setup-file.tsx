import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { api, Problem, type SetupProblem } from "../api";
import { Button } from "../ui/button";
import { useStill } from "../ui/debounced";
import { Sheet } from "../ui/dialog";
import { Difference } from "../ui/difference";
import { Editor } from "../ui/editor";
import { Field } from "../ui/field";
import { Failure, Panel } from "../ui/panel";
import { plural } from "../words";
import { WaitingSheet, waitingOf } from "./waiting";

/** The setup file: read, edited, checked while it is typed, compared with the active one, and applied. */
export function SetupFile() {
  const active = useQuery({ queryKey: ["setup-text"], queryFn: api.setupText });
  if (active.isError && !active.data) return <Failure error={active.error} />;
  if (!active.data)
    return (
      <Panel title="Setup file">
        <p className="px-4 py-3 text-ink-soft">Loading the setup…</p>
      </Panel>
    );
  return <Editing key={active.data.revision} revision={active.data.revision} yaml={active.data.yaml} />;
}

function Editing({ revision, yaml }: { revision: number; yaml: string }) {
  const client = useQueryClient();
  const [text, setText] = useState(yaml);
  const [note, setNote] = useState("");
  const [comparing, setComparing] = useState(false);
  const still = useStill(text, 400);
  const changed = text !== yaml;
  const check = useQuery({
    queryKey: ["setup-check", still],
    queryFn: () => api.checkSetup(still),
    enabled: still !== yaml,
    staleTime: 30_000,
  });
  const checked = changed && still === text ? check.data : undefined;
  const adopt = useMutation({
    mutationFn: (waiting: string) => api.adoptSetup(text, { basedOn: revision, note, waiting }),
    onSuccess: async () => {
      await client.invalidateQueries();
    },
  });
  const waits = Object.keys(waitingOf(adopt.error)).length > 0;
  const findings = useMemo(
    () => (checked?.problems ?? []).map((one) => ({ line: one.line, text: one.what })),
    [checked],
  );
  return (
    <Panel title="Setup file" aside={<span>revision {revision}</span>}>
      <div className="space-y-3 px-4 py-3">
        <Editor label="Setup file" language="setup" value={text} findings={findings} onChange={setText} />
        {!changed && (
          <p className="text-[13px] text-ink-soft">
            This is the active setup. Change it here, or with{" "}
            <code className="font-mono">holtra setup export</code> and{" "}
            <code className="font-mono">holtra setup adopt</code>. It is checked while you type; nothing
            changes until you apply it.
          </p>
        )}
        {changed && <Verdict failure={check.error} checked={checked} />}
        {changed && (
          <form
            className="flex flex-wrap items-end gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              adopt.mutate("refuse");
            }}
          >
            <div className="min-w-48 grow">
              <Field
                label="Note (optional)"
                placeholder="why it was changed"
                value={note}
                onChange={(event) => setNote(event.target.value)}
              />
            </div>
            <Button onClick={() => setText(yaml)}>Discard changes</Button>
            <Button onClick={() => setComparing(true)}>Show changes</Button>
            <Button type="submit" look="main" disabled={!checked?.good || adopt.isPending}>
              Apply
            </Button>
          </form>
        )}
        {adopt.isError && !waits && <Refused error={adopt.error} />}
      </div>
      <Sheet
        open={comparing}
        onClose={() => setComparing(false)}
        wide
        title={`Changes to revision ${revision}`}
      >
        <Difference label="Changes" was={yaml} now={text} />
      </Sheet>
      <WaitingSheet
        error={adopt.error}
        name={`revision-${revision}`}
        mayFollow
        onChoose={(waiting) => adopt.mutate(waiting)}
        onClose={() => adopt.reset()}
      />
    </Panel>
  );
}

function Verdict({
  checked,
  failure,
}: {
  checked: { problems: SetupProblem[]; warnings: SetupProblem[] } | undefined;
  failure: Error | null;
}) {
  if (failure) return <p className="text-[13px] text-bad">{failure.message}</p>;
  if (!checked) return <p className="text-[13px] text-ink-soft">Checking…</p>;
  const { problems, warnings } = checked;
  return (
    <div aria-live="polite">
      <p className={`text-[13px] font-medium ${problems.length > 0 ? "text-bad" : "text-good"}`}>
        {problems.length > 0 ? plural(problems.length, "error", "errors") : "No errors"}
        {warnings.length > 0 && (
          <span className="ml-2 text-wait">{plural(warnings.length, "warning", "warnings")}</span>
        )}
      </p>
      <ul className="max-h-48 overflow-auto">
        {problems.map((one) => (
          <Finding key={`${one.line} ${one.what}`} one={one} look="text-bad" />
        ))}
        {warnings.map((one) => (
          <Finding key={`${one.line} ${one.what}`} one={one} look="text-wait" />
        ))}
      </ul>
    </div>
  );
}

function Finding({ one, look }: { one: SetupProblem; look: string }) {
  return (
    <li className="flex gap-3 py-0.5 text-[13px]">
      <span className="w-14 shrink-0 text-ink-faint">line {one.line}</span>
      <span className={`whitespace-pre-wrap ${look}`}>{one.what}</span>
    </li>
  );
}

function Refused({ error }: { error: Error }) {
  return (
    <p role="alert" className="text-[13px] text-bad">
      {error.message}
      {error instanceof Problem && error.more.why === "overtaken"
        ? " Copy your changes, reload the page, and apply them to the newer revision."
        : ""}
    </p>
  );
}
