import { useState } from "react";
import type { Fields } from "../api";
import { PartForm, type StartPoint } from "./part-form";
import { Start } from "./start";

/** Makes an outlet: from a pasted example, a preset or nothing. The shape that was found with it is told to whoever asked. */
export function NewOutlet({ onMade }: { onMade: (name: string, shape: Fields | undefined) => void }) {
  const [start, setStart] = useState<StartPoint | null>(null);
  if (!start) return <Start of="outlet" onStart={setStart} />;
  const shape = start.shape && Object.keys(start.shape).length > 0 ? start.shape : undefined;
  return (
    <div className="space-y-2">
      <p className="text-[13px] text-ink-soft">
        A new outlet, {start.title}.{" "}
        <button type="button" className="text-accent underline" onClick={() => setStart(null)}>
          Begin otherwise
        </button>
        {shape && " The shape found with it is given to its first lane."}
      </p>
      <PartForm
        thing="outlets"
        name=""
        start={start.content}
        found={start.found}
        onAdopted={(name) => onMade(name, shape)}
      />
    </div>
  );
}
