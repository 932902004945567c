import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type CheckStep, type Fields } from "../api";
import { Button } from "../ui/button";
import { Mark } from "../ui/mark";
import { took } from "../words";

/** Looks whether an inlet or outlet would work, and shows each step with what to do about those that failed. */
export function Check({
  of,
  name,
  fields,
  onAccept,
}: {
  of: "inlets" | "outlets" | "connections";
  name: string;
  /** As a person wants it to be; the active one if not given. */
  fields?: Fields;
  /** Takes settings that the check proposed, and a person agreed to. */
  onAccept: (settings: Fields) => unknown;
}) {
  const client = useQueryClient();
  const check = useMutation({ mutationFn: () => api.check(of, name, fields) });
  const accept = useMutation({
    mutationFn: async (settings: Fields) => onAccept(settings),
    onSuccess: async () => {
      check.reset();
      // A form of the same settings would show them as they were.
      await client.invalidateQueries();
    },
  });
  return (
    <div className="space-y-2">
      <div className="flex items-center gap-3 text-[13px]">
        <Button onClick={() => check.mutate()} disabled={check.isPending}>
          {check.isPending ? "Checking…" : "Check"}
        </Button>
        <span className="text-ink-soft">
          {fields === undefined ? "Tests" : "Tests this draft"} step by step;{" "}
          {of === "outlets"
            ? "sends no message"
            : of === "inlets"
              ? "takes no message"
              : "leaves nothing behind"}
          .
        </span>
      </div>
      {check.isError && (
        <p role="alert" className="text-bad">
          {check.error.message}
        </p>
      )}
      {accept.isError && (
        <p role="alert" className="text-bad">
          {accept.error.message}
        </p>
      )}
      {accept.isSuccess && check.isIdle && (
        <p role="status" className="text-[13px] text-good">
          {fields === undefined ? "Applied" : "Entered above"}. Check again.
        </p>
      )}
      {check.data && <Steps steps={check.data} onAccept={accept.mutate} />}
    </div>
  );
}

export function Steps({ steps, onAccept }: { steps: CheckStep[]; onAccept: (settings: Fields) => void }) {
  return (
    <ol aria-label="Steps of the check" className="text-[13px]">
      {steps.map((step) => (
        <li key={step.step} className="flex flex-wrap items-baseline gap-2 border-t border-rule py-1">
          <span className="w-28 font-medium">{step.step}</span>
          <Mark state={step.result} />
          <span>{step.told}</span>
          <span className="ml-auto text-ink-faint">{took(step.micros)}</span>
          {step.mend && <span className="basis-full pl-30 text-wait">{step.mend}</span>}
          {step.offer && <Offer offer={step.offer} onAccept={onAccept} />}
        </li>
      ))}
    </ol>
  );
}

/** What a person should look at before agreeing to a setting that the check proposes. */
function Offer({
  offer,
  onAccept,
}: {
  offer: NonNullable<CheckStep["offer"]>;
  onAccept: (settings: Fields) => void;
}) {
  return (
    <div className="ml-30 basis-full rounded border border-rule bg-inset p-2">
      {offer.shows.map((line) => (
        <p key={line} className="font-mono text-[12px] break-all">
          {line}
        </p>
      ))}
      <div className="mt-2">
        <Button onClick={() => onAccept(offer.settings)}>{offer.act}</Button>
      </div>
    </div>
  );
}
