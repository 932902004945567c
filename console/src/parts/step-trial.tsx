import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Fields, type PlannedStep } from "../api";
import { Button } from "../ui/button";
import { Field } from "../ui/field";
import { Mark } from "../ui/mark";
import { Panel } from "../ui/panel";
import { Report } from "./dry-run-report";

/** The recipe on one device: the exact request of each step, and the next one made when a person says so. */
export function StepTrial({ outlet, onMade }: { outlet: string; onMade: () => void }) {
  const [device, setDevice] = useState("");
  const plan = useMutation({ mutationFn: () => api.plan(outlet, device.trim()) });
  const step = useMutation({
    mutationFn: () => api.makeStep(outlet, device.trim()),
    onSuccess: () => {
      plan.mutate();
      onMade();
    },
  });
  const next = plan.data?.steps.find((one) => one.isNext);
  const failed = plan.error ?? step.error;
  return (
    <Panel title="Try the recipe on one device" label="Try the recipe on one device">
      <div className="space-y-3 px-4 py-3">
        <form
          className="flex flex-wrap items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            step.reset();
            plan.mutate();
          }}
        >
          <div className="w-64">
            <Field
              label="Device"
              mono
              placeholder="its key"
              value={device}
              error={failed?.message}
              onChange={(event) => {
                setDevice(event.target.value);
                plan.reset();
                step.reset();
              }}
            />
          </div>
          <Button type="submit" disabled={device.trim() === "" || plan.isPending}>
            Show requests
          </Button>
          {next && (
            <Button
              look="main"
              disabled={step.isPending || next.failure !== null}
              onClick={() => step.mutate()}
            >
              Send {next.step}
            </Button>
          )}
        </form>
        {step.data && (
          <div role="status" className="rounded bg-inset px-3 py-2 text-[13px]">
            <p className="flex flex-wrap items-center gap-2">
              <span className="font-medium">{step.data.step ?? "no step"}</span>
              <Mark
                state={
                  step.data.outcome === "done"
                    ? "passed"
                    : step.data.outcome === "absent"
                      ? "quiet"
                      : "failed"
                }
                label={step.data.outcome}
              />
              {step.data.reason}
            </p>
            {step.data.answer && (
              <pre className="mt-1 overflow-x-auto font-mono text-[12px]">{step.data.answer}</pre>
            )}
            {step.data.now?.state === "known" && (
              <p>
                Known there as <span className="font-mono text-[12.5px]">{step.data.now.id}</span>.
              </p>
            )}
          </div>
        )}
        {plan.data && <Requests steps={plan.data.steps} />}
        {plan.data && !step.data && <p className="text-[12px] text-ink-faint">Nothing was sent.</p>}
      </div>
    </Panel>
  );
}

/** The recipe of an outlet that is not applied yet: what it would ask, and what that would come to. Nothing is sent but looks. */
export function DraftTrial({ outlet, fields }: { outlet: string; fields: Fields }) {
  const [device, setDevice] = useState("");
  const plan = useMutation({ mutationFn: () => api.plan(outlet, device.trim(), fields) });
  const dry = useMutation({ mutationFn: () => api.dryRun(outlet, {}, fields) });
  return (
    <section aria-label="Try this recipe" className="space-y-3 rounded border border-rule p-3">
      <div className="flex flex-wrap items-end gap-3">
        <div className="w-64">
          <Field
            label="Try this recipe on a device"
            mono
            placeholder="its key"
            value={device}
            error={plan.error?.message}
            onChange={(event) => {
              setDevice(event.target.value);
              plan.reset();
            }}
            onKeyDown={(event) => {
              if (event.key === "Enter") {
                // The form around it would be applied.
                event.preventDefault();
                plan.mutate();
              }
            }}
          />
        </div>
        <Button disabled={device.trim() === "" || plan.isPending} onClick={() => plan.mutate()}>
          Show requests
        </Button>
        <Button disabled={dry.isPending} onClick={() => dry.mutate()}>
          {dry.isPending ? "Looking…" : "Dry run over all devices"}
        </Button>
      </div>
      {plan.data && <Requests steps={plan.data.steps} />}
      {plan.data && <p className="text-[12px] text-ink-faint">Nothing was sent.</p>}
      {dry.isError && (
        <p role="alert" className="text-[13px] text-bad">
          {dry.error.message}
        </p>
      )}
      {dry.data && <Report report={dry.data} />}
    </section>
  );
}

function Requests({ steps }: { steps: PlannedStep[] }) {
  return (
    <ol className="space-y-2">
      {steps.map((one) => (
        <Planned key={one.step} step={one} />
      ))}
    </ol>
  );
}

function Planned({ step }: { step: PlannedStep }) {
  return (
    <li className={`border-l-2 pl-3 text-[13px] ${step.isNext ? "border-accent" : "border-rule"}`}>
      <p className="flex flex-wrap items-baseline gap-2">
        <span className="font-medium">{step.step}</span>
        {step.isNext && <span className="text-accent">next</span>}
        {step.right && <span className="text-ink-soft">needs the right to {step.right}</span>}
      </p>
      {step.failure ? (
        <p className="text-bad">{step.failure}</p>
      ) : (
        <>
          <p className="font-mono text-[12px] break-all">{step.request}</p>
          {step.body && (
            <pre className="overflow-x-auto font-mono text-[12px] text-ink-soft">{step.body}</pre>
          )}
        </>
      )}
    </li>
  );
}
