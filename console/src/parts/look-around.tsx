import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type Look, type Sighting } from "../api";
import { isNoPath, type Looking, named, rate, taken, ticked } from "../looking";
import { Button } from "../ui/button";
import { Field } from "../ui/field";
import { Since } from "../ui/time";
import { count, plural } from "../words";

const SECONDS = 5;

/** What comes over a connection now, level by level, to be ticked. Nothing is taken by looking. */
export function LookAround({
  connection,
  looking = { take: "paths" },
  chosen,
  onChange,
  onClose,
}: {
  connection: string;
  looking?: Looking;
  chosen: string[];
  onChange: (chosen: string[]) => void;
  onClose: () => void;
}) {
  const [within, setWithin] = useState(looking.within ?? "");
  const look = useMutation({ mutationFn: () => api.look(connection, within, SECONDS) });
  const begin = look.mutate;
  useEffect(() => begin(), [begin]);
  return (
    <section
      aria-label={`What comes over ${connection}`}
      className="space-y-2 rounded border border-rule p-2"
    >
      <div className="flex flex-wrap items-end gap-2">
        <div className="w-64">
          <Field
            label="Only within"
            mono
            placeholder="all"
            value={within}
            onChange={(event) => setWithin(event.target.value)}
          />
        </div>
        <Button disabled={look.isPending} onClick={() => look.mutate()}>
          {look.data || look.isError ? "Look again" : "Look"}
        </Button>
        <Button onClick={onClose}>Done</Button>
      </div>
      {look.isPending && <Running seconds={SECONDS} />}
      {look.isError && (
        <p role="alert" className="text-[13px] text-bad">
          {look.error.message}
        </p>
      )}
      {look.data && !look.isPending && (
        <Found look={look.data} looking={looking} chosen={chosen} onChange={onChange} />
      )}
    </section>
  );
}

/** How long the look still takes. */
function Running({ seconds }: { seconds: number }) {
  const [passed, setPassed] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => setPassed((now) => now + 0.1), 100);
    return () => clearInterval(timer);
  }, []);
  return (
    <div className="flex items-center gap-2 text-[13px] text-ink-soft" role="status">
      <progress className="h-1.5 w-40 accent-accent" max={seconds} value={Math.min(passed, seconds)} />
      Listening for {seconds} seconds
    </div>
  );
}

function Found({
  look,
  looking,
  chosen,
  onChange,
}: {
  look: Look;
  looking: Looking;
  chosen: string[];
  onChange: (chosen: string[]) => void;
}) {
  if (look.found.length === 0)
    return (
      <p className="text-[13px] text-ink-soft">
        Nothing came in {look.seconds.toFixed(0)} s. Look again when senders are at work, or look at another
        part.
      </p>
    );
  return (
    <>
      <p className="text-[12px] text-ink-soft">
        {plural(look.messages, "message", "messages")} in {look.seconds.toFixed(0)} s
        {look.beyond > 0 && `, ${count(look.beyond)} of them on topics too many to show`}
      </p>
      <div className="max-h-96 overflow-auto">
        {looking.take === "paths" ? (
          <Places
            all={look.found}
            above={null}
            notShown={look.notShown}
            seconds={look.seconds}
            chosen={chosen}
            onChange={onChange}
            depth={0}
          />
        ) : (
          <Names look={look} looking={looking} chosen={chosen} onChange={onChange} />
        )}
      </div>
    </>
  );
}

/** The names that were seen at a level, or of values. */
function Names({
  look,
  looking,
  chosen,
  onChange,
}: {
  look: Look;
  looking: Exclude<Looking, { take: "paths" }>;
  chosen: string[];
  onChange: (chosen: string[]) => void;
}) {
  const names = named(look.found, looking);
  if (names.length === 0)
    return (
      <p className="text-[13px] text-ink-soft">
        No names among them. Names of metrics come with births; ask again after a sender has begun anew.
      </p>
    );
  return (
    <ul>
      {names.map((one) => (
        <li key={one.name} className="flex items-baseline gap-2 py-0.5 text-[13px] hover:bg-inset">
          <label className="flex items-baseline gap-2">
            <input
              type="checkbox"
              className="accent-accent"
              checked={chosen.includes(one.name)}
              onChange={(event) =>
                onChange(
                  event.target.checked ? [...chosen, one.name] : chosen.filter((name) => name !== one.name),
                )
              }
            />
            <span className="font-mono text-[12.5px]">{one.name}</span>
          </label>
          <span className="ml-auto flex shrink-0 items-baseline gap-3 pl-3 text-[12px] text-ink-soft">
            {one.last !== null && (
              <code className="max-w-72 truncate font-mono" title={one.last}>
                {one.last}
              </code>
            )}
            <span className="w-16 text-right">{rate(one.messages, look.seconds).toFixed(1)}/s</span>
          </span>
        </li>
      ))}
    </ul>
  );
}

type Choosing = { seconds: number; chosen: string[]; onChange: (chosen: string[]) => void };

function Places({
  all,
  above,
  notShown,
  depth,
  ...choosing
}: { all: Sighting[]; above: Sighting | null; notShown: number; depth: number } & Choosing) {
  return (
    <ul className={depth > 0 ? "ml-5" : ""}>
      {all.map((place) => (
        <Place key={place.path} place={place} value={isNoPath(place, above)} depth={depth} {...choosing} />
      ))}
      {notShown > 0 && (
        <li className="py-0.5 text-[12px] text-ink-faint">
          and {count(notShown)} more with less traffic; look within one level to see them
        </li>
      )}
    </ul>
  );
}

function Place({
  place,
  value,
  depth,
  seconds,
  chosen,
  onChange,
}: { place: Sighting; value: boolean; depth: number } & Choosing) {
  const inner = place.below.length > 0 || place.notShown > 0;
  const [open, setOpen] = useState(depth < 1);
  const how = taken(place, chosen);
  return (
    <li>
      <div className="flex items-baseline gap-2 py-0.5 text-[13px] hover:bg-inset">
        {inner ? (
          <button
            type="button"
            aria-expanded={open}
            aria-label={`${open ? "Fold" : "Unfold"} ${place.name}`}
            className="w-4 text-ink-soft"
            onClick={() => setOpen(!open)}
          >
            {open ? "▾" : "▸"}
          </button>
        ) : (
          <span className="w-4" />
        )}
        {value ? (
          <span className="font-mono text-[12.5px] text-ink-soft">{place.name}</span>
        ) : (
          <label className="flex items-baseline gap-2">
            <input
              type="checkbox"
              className="accent-accent"
              checked={how !== "no"}
              disabled={how === "from above"}
              onChange={(event) => onChange(ticked(place, chosen, event.target.checked))}
            />
            <span className="font-mono text-[12.5px]">{place.name === "" ? "(empty)" : place.name}</span>
          </label>
        )}
        <span className="ml-auto flex shrink-0 items-baseline gap-3 pl-3 text-[12px] text-ink-soft">
          {place.last !== null && (value || place.below.length === 0) && (
            <code className="max-w-72 truncate font-mono" title={place.last}>
              {place.last}
            </code>
          )}
          {place.retained && (
            <span title="Kept by the broker for whoever subscribes; it may be old">retained</span>
          )}
          {inner && place.places > 0 && !place.below.some((one) => isNoPath(one, place)) && (
            <span>{plural(place.places, "topic", "topics")}</span>
          )}
          {place.lastAt && !inner && <Since instant={place.lastAt} />}
          <span className="w-16 text-right">{rate(place.messages, seconds).toFixed(1)}/s</span>
        </span>
      </div>
      {inner && open && (
        <Places
          all={place.below}
          above={place}
          notShown={place.notShown}
          depth={depth + 1}
          seconds={seconds}
          chosen={chosen}
          onChange={onChange}
        />
      )}
    </li>
  );
}
