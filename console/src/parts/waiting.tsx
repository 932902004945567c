import { useState } from "react";
import { Problem } from "../api";
import { Button } from "../ui/button";
import { Sheet } from "../ui/dialog";
import { Field } from "../ui/field";
import { plural } from "../words";

/** How many deliveries stand in the way of a change, by lane; empty if that is not why it was refused. */
export function waitingOf(error: unknown): Record<string, number> {
  return error instanceof Problem && error.more.why === "waiting"
    ? (error.more.waiting as Record<string, number>)
    : {};
}

/** How many devices an outlet that would be gone made at its destination, by outlet; empty if that is not why. */
export function madeOf(error: unknown): Record<string, number> {
  return error instanceof Problem && error.more.why === "made"
    ? (error.more.made as Record<string, number>)
    : {};
}

/** Asks what becomes of deliveries that wait on a lane which goes, or goes elsewhere. */
export function WaitingSheet({
  error,
  name,
  mayFollow,
  onChoose,
  onClose,
}: {
  error: unknown;
  name: string;
  mayFollow: boolean;
  onChoose: (waiting: "drop" | "follow", confirm: string) => void;
  onClose: () => void;
}) {
  const [typed, setTyped] = useState("");
  const waiting = waitingOf(error);
  const total = Object.values(waiting).reduce((a, b) => a + b, 0);
  return (
    <Sheet open={total > 0} onClose={onClose} title="What should happen to the waiting deliveries?">
      <p>
        {Object.entries(waiting)
          .map(([lane, number]) => `Lane ${lane} owes ${plural(number, "delivery", "deliveries")}`)
          .join(", ")}
        .
      </p>
      {mayFollow && (
        <div className="mt-3 rounded border border-rule p-3">
          <p className="mb-2">They can follow the lane to where it goes from now on.</p>
          <Button look="main" onClick={() => onChoose("follow", "")}>
            Let them follow
          </Button>
        </div>
      )}
      <form
        className="mt-3 space-y-2 rounded border border-rule p-3"
        onSubmit={(event) => {
          event.preventDefault();
          onChoose("drop", typed);
        }}
      >
        <p>Or they are dropped. That cannot be taken back, and the traces of their messages will say so.</p>
        <Field
          label={`Type ${name} to drop them`}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        <Button look="danger" type="submit" disabled={typed !== name}>
          Drop {plural(total, "delivery", "deliveries")}
        </Button>
      </form>
    </Sheet>
  );
}
