import { useQuery } from "@tanstack/react-query";
import { api, type Fields, type Message, type Tried } from "../api";
import { factValue } from "../facts";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { Segments } from "../ui/field";
import { Panel } from "../ui/panel";
import { Time } from "../ui/time";
import { brief, unitWord } from "../words";

/** The message a lane is tried on. */
export type Subject = {
  way: "stored" | "pasted";
  id: string;
  pasted: { inlet: string; body: string; contentType: string };
  facts: Record<string, unknown>;
};

export function SubjectPanel({
  inlets,
  subject,
  onChange,
  tried,
}: {
  inlets: string[];
  subject: Subject;
  onChange: (subject: Subject) => void;
  tried: Tried | undefined;
}) {
  const shown = tried?.subject;
  return (
    <Panel
      title="Message"
      aside={
        <Segments
          label="Source of the message"
          value={subject.way}
          options={[
            ["stored", "received"],
            ["pasted", "pasted"],
          ]}
          onChange={(way) => onChange({ ...subject, way })}
        />
      }
    >
      <div className="space-y-3 px-4 py-3">
        {subject.way === "stored" ? (
          <Recent inlets={inlets} chosen={subject.id} onChoose={(id) => onChange({ ...subject, id })} />
        ) : (
          <Pasted inlets={inlets} subject={subject} onChange={onChange} />
        )}
        {tried?.unreadable && (
          <p className="rounded bg-bad-wash px-2.5 py-1.5 text-bad">{tried.unreadable}</p>
        )}
        {shown && (
          <>
            <Values title="data" values={shown.data} units={shown.units} />
            <Facts
              device={shown.device}
              supposed={subject.facts}
              onChange={(facts) => onChange({ ...subject, facts })}
            />
            <details className="text-[13px]">
              <summary className="cursor-pointer text-ink-soft">meta</summary>
              <Values values={shown.meta} />
            </details>
          </>
        )}
      </div>
    </Panel>
  );
}

function Recent({
  inlets,
  chosen,
  onChoose,
}: {
  inlets: string[];
  chosen: string;
  onChoose: (id: string) => void;
}) {
  const recent = useQuery({
    queryKey: ["workbench", "recent", inlets],
    queryFn: () => recentOf(inlets),
    refetchInterval: 5000,
  });
  const list = recent.data ?? [];
  if (recent.data && list.length === 0)
    return (
      <p className="text-ink-soft">
        No messages from {inlets.join(", ") || "an inlet"} yet. Choose “pasted” and paste an example.
      </p>
    );
  const there = list.some((one) => one.id === chosen);
  return (
    <ul className="max-h-44 overflow-auto rounded border border-rule" aria-label="Received messages">
      {!there && chosen !== "" && (
        <li className="border-b border-rule bg-accent-wash px-2 py-1 font-mono text-[11px]">{chosen}</li>
      )}
      {list.map((message) => (
        <li key={message.id} className="border-b border-rule last:border-0">
          <button
            type="button"
            aria-pressed={message.id === chosen}
            onClick={() => onChoose(message.id)}
            className={`flex w-full gap-2 px-2 py-1 text-left text-[12.5px] ${message.id === chosen ? "bg-accent-wash font-medium" : "hover:bg-inset"}`}
          >
            <Time instant={message.received} />
            <span className="font-mono text-[12px]">{message.device ?? "–"}</span>
            <span className="truncate text-ink-soft">{message.type}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}

/** The inlet of Holtra's own messages. Lanes take its alarms; what they made themselves is not for the choosing. */
const OWN = "holtra";

/** The newest read messages of each inlet, one of a device before a second of another. */
export async function recentOf(inlets: string[]): Promise<Message[]> {
  const pages = await Promise.all(
    inlets.map((inlet) => api.messages({ inlet, type: inlet === OWN ? "alarm" : null, limit: 60 })),
  );
  const read = pages
    .flatMap((page) => page.messages)
    .filter((message) => message.state === "read" || message.state === "made");
  read.sort((a, b) => b.received.localeCompare(a.received));
  const seen = new Set<string>();
  const firsts = read.filter((message) => {
    const key = `${message.device} ${message.type}`;
    return seen.has(key) ? false : seen.add(key);
  });
  return [...firsts, ...read.filter((message) => !firsts.includes(message))].slice(0, 40);
}

function Pasted({
  inlets,
  subject,
  onChange,
}: {
  inlets: string[];
  subject: Subject;
  onChange: (subject: Subject) => void;
}) {
  const set = (change: Partial<Subject["pasted"]>) =>
    onChange({ ...subject, pasted: { ...subject.pasted, ...change } });
  return (
    <div className="space-y-2">
      <div className="text-[13px]">
        as it would come in by{" "}
        <Choice
          label="inlet"
          value={subject.pasted.inlet || (inlets[0] ?? "")}
          options={inlets}
          onChange={(inlet) => set({ inlet: inlet || (inlets[0] ?? "") })}
        />
      </div>
      <textarea
        aria-label="Body of the message"
        spellCheck={false}
        value={subject.pasted.body}
        onChange={(event) => set({ body: event.target.value })}
        placeholder='{"device": …}'
        className="h-40 w-full rounded border border-rule bg-sheet px-2.5 py-1.5 font-mono text-[12px]"
      />
    </div>
  );
}

function flat(value: unknown, path = ""): [string, unknown][] {
  if (value !== null && typeof value === "object" && !Array.isArray(value))
    return Object.entries(value).flatMap(([name, inner]) => flat(inner, path ? `${path}.${name}` : name));
  return [[path, value]];
}

function Values({
  title,
  values,
  units = {},
}: {
  title?: string;
  values: unknown;
  units?: Record<string, string>;
}) {
  return (
    <div>
      {title && <h3 className="mb-1 text-[12px] font-medium text-ink-faint">{title}</h3>}
      <table className="w-full">
        <tbody>
          {flat(values).map(([name, value]) => (
            <tr key={name} className="border-b border-rule last:border-0">
              <td className="py-0.5 pr-2 font-mono text-[12px] break-all">{name || "value"}</td>
              <td className="py-0.5 text-right text-[12.5px] break-all" title={String(value)}>
                {brief(value)}
                {units[name] && <span className="ml-1 text-ink-soft">{unitWord(units[name])}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** The facts of its device, each of which may be supposed to be otherwise. */
function Facts({
  device,
  supposed,
  onChange,
}: {
  device: Fields;
  supposed: Record<string, unknown>;
  onChange: (facts: Record<string, unknown>) => void;
}) {
  if (!device.key) return <p className="text-[13px] text-ink-soft">It is of no device.</p>;
  const facts = (device.facts ?? {}) as Record<string, unknown>;
  const names = [...new Set([...Object.keys(facts), ...Object.keys(supposed)])].sort();
  return (
    <div>
      <h3 className="mb-1 flex items-center text-[12px] font-medium text-ink-faint">
        device {String(device.key)}
        {Object.keys(supposed).length > 0 && (
          <Button className="ml-auto h-6! px-2! text-[12px]!" onClick={() => onChange({})}>
            as they are
          </Button>
        )}
      </h3>
      {names.length === 0 && <p className="text-[13px] text-ink-soft">Nothing is known of it.</p>}
      <table className="w-full">
        <tbody>
          {names.map((name) => (
            <tr key={name} className="border-b border-rule last:border-0">
              <td className="py-0.5 pr-2 font-mono text-[12px]">facts.{name}</td>
              <td className="w-1/2 py-0.5">
                <input
                  aria-label={`suppose ${name}`}
                  value={String(name in supposed ? (supposed[name] ?? "") : facts[name])}
                  onChange={(event) => onChange({ ...supposed, [name]: typedValue(event.target.value) })}
                  className={`h-6 w-full rounded border bg-sheet px-1.5 text-right text-[12.5px] ${name in supposed ? "border-accent text-accent" : "border-transparent hover:border-rule"}`}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {Object.keys(supposed).length > 0 && (
        <p className="text-[12px] text-accent">Supposed for this try; the registry stays as it is.</p>
      )}
    </div>
  );
}

/** What a person typed, as the value it is. An empty text takes the fact away. */
export const typedValue = (text: string): unknown => (text === "" ? null : factValue(text));
