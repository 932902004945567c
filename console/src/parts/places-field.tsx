import { useState } from "react";
import type { Widget } from "../forms/theme";
import type { Looking } from "../looking";
import { Button } from "../ui/button";
import { Labelled } from "../ui/field";
import { LookAround } from "./look-around";

/** A list of what to take from a connection, such as topic filters: typed, or ticked in what is seen there. */
export function PlacesField({
  label,
  value,
  error,
  onChange,
  connection,
  look = { take: "paths" },
}: Parameters<Widget>[0] & {
  look?: Looking;
  /** Empty if none is chosen. */
  connection: string;
}) {
  const [looking, setLooking] = useState(false);
  const places = Array.isArray(value) ? value.map(String) : [];
  const change = (next: string[]) => onChange(next.length === 0 ? undefined : next);
  return (
    <Labelled label={label} error={error}>
      {(id) => (
        <div className="space-y-2">
          {[...places, ""].map((place, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a line is known by where it stands while it is typed
            <div key={at} className="flex items-center gap-2">
              <input
                id={at === 0 ? id : undefined}
                aria-label={at === 0 ? undefined : `${label}, ${at + 1}`}
                spellCheck={false}
                placeholder={at === places.length ? "one more" : undefined}
                value={place}
                onChange={(event) => {
                  const next = [...places];
                  next[at] = event.target.value;
                  change(next.filter((one, i) => one !== "" || i < at));
                }}
                className="h-8 w-full max-w-lg rounded border border-rule bg-sheet px-2.5 font-mono text-[12px] placeholder:text-ink-faint"
              />
              {at < places.length && (
                <Button title={`Remove ${place}`} onClick={() => change(places.filter((_, i) => i !== at))}>
                  ×
                </Button>
              )}
            </div>
          ))}
          {looking && connection ? (
            <LookAround
              connection={connection}
              looking={look}
              chosen={places}
              onChange={change}
              onClose={() => setLooking(false)}
            />
          ) : (
            <div className="flex items-center gap-2 text-[12px] text-ink-soft">
              <Button disabled={!connection} onClick={() => setLooking(true)}>
                Look around
              </Button>
              {connection
                ? "Shows what comes over the connection now, to be ticked."
                : "Choose a connection first; then what comes over it can be shown."}
            </div>
          )}
        </div>
      )}
    </Labelled>
  );
}
