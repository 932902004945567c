import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Fields, type Part, type ReadingChoice, type ReadingProposal } from "../api";
import { Button } from "../ui/button";
import { Field } from "../ui/field";
import { Panel } from "../ui/panel";
import { brief, plural } from "../words";

const ROWS = [
  ["device", "Device", "Which device sent it. Without one, messages are of no device."],
  ["time", "Time", "When it was measured. Without one, the time of arrival."],
  ["payload", "Payload", "Bytes for the codec of the device's model."],
  ["sequence", "Sequence", "The device's own number for a message; shows gaps."],
] as const;

type Chosen = Record<(typeof ROWS)[number][0], string>;

/** Proposes how to read what comes, by the last message; by itself as long as the inlet does not say which device sends. */
export function Reading({ inlet }: { inlet: string }) {
  const [asked, setAsked] = useState(false);
  const [one, setOne] = useState(false);
  const part = useQuery({ queryKey: ["part", "inlets", inlet], queryFn: () => api.part("inlets", inlet) });
  const content = part.data?.content;
  const open = asked || (content != null && content.device === undefined);
  const proposed = useQuery({
    queryKey: ["inlet", inlet, "proposal", one],
    queryFn: () => api.proposal(inlet, one),
    enabled: open,
    placeholderData: (before) => before,
    retry: false,
  });
  if (!part.data || !content) return null;
  if (!open)
    return (
      <Panel title="Reading" aside={<Button onClick={() => setAsked(true)}>Propose settings</Button>}>
        <p className="px-4 py-2 text-[13px] text-ink-soft">
          Device: <code className="font-mono text-[12px]">{String(content.device)}</code>
          {content.time !== undefined && (
            <>
              , time: <code className="font-mono text-[12px]">{String(content.time)}</code>
            </>
          )}
        </p>
      </Panel>
    );
  if (!proposed.data) return null;
  const { proposal, message } = proposed.data;
  if (proposal.trouble !== null)
    return (
      <Panel title="Reading">
        <p className="px-4 py-2 text-[13px] text-ink-soft">
          No settings can be proposed: {proposal.trouble}.
        </p>
      </Panel>
    );
  return (
    <Proposal
      key={`${message} ${proposal.parts.length > 0}`}
      inlet={inlet}
      part={part.data}
      proposal={proposal}
      one={one}
      onOne={setOne}
      onDone={() => setAsked(false)}
    />
  );
}

function Proposal({
  inlet,
  part,
  proposal,
  one,
  onOne,
  onDone,
}: {
  inlet: string;
  part: Part;
  proposal: ReadingProposal["proposal"];
  one: boolean;
  onOne: (one: boolean) => void;
  onDone: () => void;
}) {
  const client = useQueryClient();
  const [chosen, setChosen] = useState<Chosen>({
    device: first(proposal.device),
    time: first(proposal.time),
    payload: first(proposal.payload),
    sequence: first(proposal.sequence),
  });
  const [zone, setZone] = useState(Intl.DateTimeFormat().resolvedOptions().timeZone);
  const parts = proposal.parts[0];
  const local = isLocal(proposal, chosen.time);
  const apply = useMutation({
    mutationFn: () =>
      api.adoptPart("inlets", inlet, {
        content: settings(part.content ?? {}, proposal, chosen, zone),
        basedOn: part.mark,
        note: "reading proposed by a message",
      }),
    onSuccess: async () => {
      await client.invalidateQueries();
      onDone();
    },
  });
  const fields = Object.entries(proposal.fields);
  return (
    <Panel title="Reading" aside="proposed by the last message; change what does not fit">
      <form
        className="grid gap-4 px-4 py-3 lg:grid-cols-2"
        onSubmit={(event) => {
          event.preventDefault();
          apply.mutate();
        }}
      >
        <div className="space-y-3">
          {(parts || one) && (
            <label className="flex items-center gap-2 text-[13px]">
              <input type="checkbox" checked={!one} onChange={(event) => onOne(!event.target.checked)} />
              <span>
                Several messages in one arrival
                {parts && (
                  <>
                    : <code className="font-mono text-[12px]">{parts.expression}</code>, {String(parts.value)}
                  </>
                )}
              </span>
            </label>
          )}
          {proposal.format && (
            <p className="text-[13px]">
              The content looks like <b>{proposal.format}</b>, whatever its content type says.
            </p>
          )}
          {ROWS.map(([name, title, about]) => (
            <Expression
              key={name}
              label={title}
              about={about}
              choices={proposal[name]}
              value={chosen[name]}
              onChange={(next) => setChosen({ ...chosen, [name]: next })}
            />
          ))}
          {local && (
            <Field label="Time zone" value={zone} onChange={(event) => setZone(event.target.value)} />
          )}
          <div className="flex items-center gap-3">
            <Button type="submit" look="main" disabled={apply.isPending}>
              Apply
            </Button>
            <span className="text-[12px] text-ink-faint">
              Messages that came before stay as they were read.
            </span>
          </div>
          {apply.isError && (
            <p role="alert" className="text-[13px] text-bad">
              {apply.error.message}
            </p>
          )}
        </div>
        <div>
          <h3 className="mb-1 text-[13px] font-semibold">
            {plural(fields.length, "field", "fields")}
            {parts && " in the first message"}
          </h3>
          <table className="w-full border-collapse font-mono text-[12px]">
            <tbody>
              {fields.slice(0, 40).map(([place, value]) => (
                <tr key={place} className="border-b border-rule last:border-0 [&>td]:py-0.5">
                  <td>{place}</td>
                  <td className="max-w-64 truncate text-right">{brief(value)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </form>
    </Panel>
  );
}

const first = (choices: ReadingChoice[]) => choices[0]?.expression ?? "";

const withOf = (choices: ReadingChoice[], expression: string) =>
  choices.find((choice) => choice.expression === expression)?.with ?? {};

const isLocal = (proposal: ReadingProposal["proposal"], time: string) =>
  withOf(proposal.time, time).timeForm?.startsWith("yyyy") ?? false;

/** The inlet's settings with what was chosen in place of what they say of reading. */
function settings(
  before: Fields,
  proposal: ReadingProposal["proposal"],
  chosen: Chosen,
  zone: string,
): Fields {
  const { device: _d, time: _t, timeForm: _f, payload: _p, sequence: _s, parts: _l, ...rest } = before;
  const content: Fields = { ...rest };
  if (proposal.format) content.format = proposal.format;
  if (proposal.parts[0]) content.parts = proposal.parts[0].expression;
  if (chosen.device) content.device = chosen.device;
  if (chosen.time) Object.assign(content, { time: chosen.time, ...withOf(proposal.time, chosen.time) });
  if (isLocal(proposal, chosen.time)) content.zone = zone;
  if (chosen.payload)
    content.payload = { bytes: chosen.payload, ...withOf(proposal.payload, chosen.payload) };
  if (chosen.sequence) content.sequence = chosen.sequence;
  return content;
}

/** An expression, with others that were found, and what it gives. */
function Expression({
  label,
  about,
  choices,
  value,
  onChange,
}: {
  label: string;
  about: string;
  choices: ReadingChoice[];
  value: string;
  onChange: (value: string) => void;
}) {
  const found = choices.find((choice) => choice.expression === value);
  const others = choices.filter((choice) => choice !== found);
  const told =
    found &&
    [`${brief(found.value)}: ${found.why}`, ...Object.entries(found.with).map((one) => one.join(" "))].join(
      ", ",
    );
  return (
    <div>
      <Field
        label={label}
        mono
        value={value}
        placeholder="none"
        hint={told ?? about}
        onChange={(event) => onChange(event.target.value)}
      />
      {others.length > 0 && (
        <p className="mt-0.5 text-[12px] text-ink-soft">
          or{" "}
          {others.map((choice) => (
            <button
              key={choice.expression}
              type="button"
              title={`${brief(choice.value)}: ${choice.why}`}
              className="mr-2 font-mono text-accent underline underline-offset-2"
              onClick={() => onChange(choice.expression)}
            >
              {choice.expression}
            </button>
          ))}
        </p>
      )}
    </div>
  );
}
