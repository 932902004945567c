import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Thing } from "../api";
import { Button } from "../ui/button";
import { Sheet } from "../ui/dialog";
import { plural } from "../words";
import { madeOf, WaitingSheet, waitingOf } from "./waiting";

/** Takes a part away, after saying what depends on it and what waits in it. */
export function Remove({ thing, name, onDone }: { thing: Thing; name: string; onDone: () => void }) {
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  const part = useQuery({
    queryKey: ["part", thing, name],
    queryFn: () => api.part(thing, name),
    enabled: open,
  });
  const remove = useMutation({
    mutationFn: ({ waiting, confirm }: { waiting: string; confirm: string }) =>
      api.removePart(thing, name, waiting, confirm),
    onSuccess: async () => {
      setOpen(false);
      await client.invalidateQueries();
      onDone();
    },
  });
  const made = madeOf(remove.error)[name];
  const asks = Object.keys(waitingOf(remove.error)).length > 0 || made !== undefined;
  const dependents = part.data?.dependents ?? [];
  return (
    <>
      <Button look="danger" onClick={() => setOpen(true)}>
        Remove
      </Button>
      <Sheet
        open={open && !asks}
        onClose={() => setOpen(false)}
        title={`Remove ${thing.slice(0, -1)} ${name}?`}
      >
        {dependents.length > 0 ? (
          <p>
            It cannot go yet: {dependents.map((one) => `${one.thing.slice(0, -1)} ${one.name}`).join(", ")}{" "}
            {dependents.length === 1 ? "needs" : "need"} it. Change or remove{" "}
            {dependents.length === 1 ? "that" : "those"} first.
          </p>
        ) : (
          <>
            <p>
              Nothing else depends on it. What it did stays in the traces, and an earlier revision of the
              setup brings it back.
            </p>
            {part.data && part.data.waiting > 0 && (
              <p className="mt-2 text-wait">
                {plural(part.data.waiting, "delivery waits", "deliveries wait")} in it; you will be asked what
                becomes of them.
              </p>
            )}
            {part.data && part.data.dead > 0 && (
              <p className="mt-2">
                {plural(part.data.dead, "dead letter", "dead letters")} of it stay where they are.
              </p>
            )}
          </>
        )}
        {remove.isError && !asks && <p className="mt-2 text-bad">{remove.error.message}</p>}
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={() => setOpen(false)}>Keep it</Button>
          <Button
            look="danger"
            disabled={!part.data || dependents.length > 0 || remove.isPending}
            onClick={() => remove.mutate({ waiting: "refuse", confirm: "" })}
          >
            Remove
          </Button>
        </div>
      </Sheet>
      <Sheet
        open={made !== undefined}
        onClose={() => remove.reset()}
        title="What should happen to the devices there?"
      >
        <p>
          This outlet made {plural(made ?? 0, "device", "devices")} at its destination, which are there still.
          To remove them, keep the outlet and use <em>What we made there</em> on its page.
        </p>
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={() => remove.reset()}>Keep the outlet</Button>
          <Button look="danger" onClick={() => remove.mutate({ waiting: "leave", confirm: "" })}>
            Remove it, leave the devices there
          </Button>
        </div>
      </Sheet>
      <WaitingSheet
        error={remove.error}
        name={name}
        mayFollow={false}
        onChoose={(waiting, confirm) => remove.mutate({ waiting, confirm })}
        onClose={() => remove.reset()}
      />
    </>
  );
}
