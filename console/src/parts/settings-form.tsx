import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { api, type Fields, type Part, type Thing } from "../api";
import type { Schema } from "../forms/form-schema";
import { Button } from "../ui/button";
import { useStill } from "../ui/debounced";
import { Field } from "../ui/field";
import { Loading, Panel } from "../ui/panel";

/** A schema that refines itself by the kind of the part. */
export type PartSchema = Schema & {
  allOf?: { if: { properties: { kind: { const: string } } }; then: Schema }[];
};

/** What the fields of a part's form have to know. */
export type Settings = {
  schema: PartSchema;
  /** What the schema's references refer to. */
  definitions: Record<string, PartSchema>;
  /** The name that the part has, or would have. */
  called: string;
  content: Fields;
  change: (next: (now: Fields) => Fields) => void;
  /** What is wrong, by the place within the part. */
  errors: Record<string, string>;
  /** It was checked as it stands, and is not active yet. */
  applicable: boolean;
};

/** The form of a part of the setup: its name, its fields, what is wrong with them. Nothing changes before it is applied. */
export function SettingsForm({
  thing,
  name,
  part,
  start,
  applied,
  onAdopted,
  children,
}: {
  thing: Thing;
  /** Empty for a new one, whose name is asked for. */
  name: string;
  part?: Part;
  start: Fields;
  /** The revision that this content was applied as a moment ago. */
  applied?: number;
  onAdopted: (name: string, revision: number) => void;
  children: (settings: Settings) => ReactNode;
}) {
  const client = useQueryClient();
  const [called, setCalled] = useState(name);
  const [content, setContent] = useState<Fields>(start);
  const [note, setNote] = useState("");
  const schema = useQuery({
    queryKey: ["setup-schema"],
    queryFn: api.setupSchema,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const fits = /^[a-z][a-z0-9-]{0,62}$/.test(called);
  const still = useStill(content, 300);
  const check = useQuery({
    queryKey: ["check", thing, called, still],
    queryFn: () => api.checkPart(thing, called, still),
    enabled: fits,
    placeholderData: (before) => before,
    retry: false,
  });
  const adopt = useMutation({
    mutationFn: () => api.adoptPart(thing, called, { content, basedOn: part?.mark ?? "", note }),
    onSuccess: async (adopted) => {
      await client.invalidateQueries();
      onAdopted(called, adopted.revision);
    },
  });
  if (!schema.data) return <Loading />;
  const singular = thing.slice(0, -1);
  const definitions = (schema.data as unknown as { $defs: Record<string, PartSchema> }).$defs;
  const { errors, rest } = placed(check.data?.problems ?? [], `${thing}.${called}`);
  const changed = part === undefined || JSON.stringify(content) !== JSON.stringify(part.content);
  const checked = !check.isPlaceholderData && JSON.stringify(still) === JSON.stringify(content);
  const good = fits && checked && check.data?.problems.length === 0;
  return (
    <Panel title={part ? "Settings" : `New ${singular}`}>
      <form
        className="space-y-4 px-4 py-3"
        onSubmit={(event) => {
          event.preventDefault();
          adopt.mutate();
        }}
      >
        {!part && (
          <Field
            label="Name"
            value={called}
            error={
              called === "" || fits
                ? undefined
                : "Lower-case letters, digits and dashes, beginning with a letter."
            }
            onChange={(event) => setCalled(event.target.value)}
          />
        )}
        {children({
          schema: definitions[singular] ?? {},
          definitions,
          called,
          content,
          change: setContent,
          errors,
          applicable: good && changed,
        })}
        {rest.map((problem) => (
          <p key={problem} className="text-[13px] text-bad">
            {problem}
          </p>
        ))}
        <div className="flex flex-wrap items-end gap-3 border-t border-rule pt-3">
          <div className="grow">
            <Field
              label="Reason for the change"
              value={note}
              onChange={(event) => setNote(event.target.value)}
            />
          </div>
          <Button type="submit" look="main" disabled={!good || !changed || adopt.isPending}>
            Apply
          </Button>
        </div>
        <p role="status" className="text-[13px]">
          {adopt.isError && <span className="text-bad">{adopt.error.message}</span>}
          {!changed && applied === undefined && (
            <span className="text-ink-soft">It is active as it stands.</span>
          )}
          {!changed && applied !== undefined && (
            <span className="text-good">Applied as revision {applied}.</span>
          )}
        </p>
      </form>
    </Panel>
  );
}

/** The problems of one part by their place within it, and the others as sentences. */
export function placed(problems: { where: string; what: string }[], part: string) {
  const errors: Record<string, string> = {};
  const rest: string[] = [];
  for (const problem of problems) {
    if (problem.where.startsWith(`${part}.`)) {
      const at = problem.where.slice(part.length + 1);
      errors[at] = errors[at] ? `${errors[at]}\n${problem.what}` : problem.what;
    } else rest.push(`${problem.where ? `${problem.where}: ` : ""}${problem.what}`);
  }
  return { errors, rest };
}
