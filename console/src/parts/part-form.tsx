import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Fields, type Part, type Proposal, type Thing } from "../api";
import { picked, refined, type Schema } from "../forms/form-schema";
import { Button } from "../ui/button";
import { useStill } from "../ui/debounced";
import { Field } from "../ui/field";
import { Loading, Panel } from "../ui/panel";
import { Check } from "./check";
import { InletCredential, OutletCredential } from "./credential-field";
import { SchemaForm } from "./schema-form";

type Whole = { $defs: Record<string, Schema & { allOf?: Case[] }> };
type Case = {
  if: { properties: { kind: { const: string } } };
  then: Schema;
};

/** The form of an inlet or outlet, made from the JSON Schema of its kind. Nothing changes before it is adopted. */
export function PartForm({
  thing,
  name,
  part,
  start,
  found,
  applied,
  onAdopted,
}: {
  thing: "inlets" | "outlets";
  /** Empty for a new one, whose name is asked for. */
  name: string;
  part?: Part;
  start: Fields;
  found?: Proposal["credential"];
  /** The revision that this content was applied as a moment ago. */
  applied?: number;
  onAdopted: (name: string, revision: number) => void;
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
  const field = thing === "inlets" ? "at" : "to";
  const whole = schema.data as unknown as Whole;
  const { allOf, ...every } = whole.$defs[singular] ?? {};
  const common = refined(every, allOf?.find((one) => one.if.properties.kind.const === content.kind)?.then);
  const own = common.properties?.[field];
  const errors: Record<string, string> = {};
  const rest: string[] = [];
  for (const problem of check.data?.problems ?? []) {
    const prefix = `${thing}.${called}.`;
    if (problem.where.startsWith(prefix)) {
      const at = problem.where.slice(prefix.length);
      errors[at] = errors[at] ? `${errors[at]}\n${problem.what}` : problem.what;
    } else rest.push(`${problem.where ? `${problem.where}: ` : ""}${problem.what}`);
  }
  const at = errors[field];
  const changed = part === undefined || JSON.stringify(content) !== JSON.stringify(part.content);
  const good = fits && check.data?.problems.length === 0 && JSON.stringify(still) === JSON.stringify(content);
  const others = Object.keys(common.properties ?? {}).filter(
    (one) => !["kind", "at", "to", "state", "preset"].includes(one),
  );
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
        {own && (
          <SchemaForm
            schema={own}
            value={(content[field] as Fields | undefined) ?? {}}
            path={field}
            errors={errors}
            onChange={(next) => setContent((now) => ({ ...now, [field]: next }))}
            widgets={{
              credential: (props) =>
                thing === "inlets" ? (
                  <InletCredential {...props} name={called} kind={String(content.kind)} />
                ) : (
                  <OutletCredential {...props} name={called} kind={String(content.kind)} found={found} />
                ),
            }}
          />
        )}
        {at && <p className="text-[12px] text-bad">{at}</p>}
        <details open={thing === "inlets"} className="border-t border-rule pt-3">
          <summary className="mb-2 cursor-pointer text-[13px] font-semibold">
            {thing === "inlets" ? "Reading" : "Verdicts, pace, batches and costs"}
          </summary>
          <SchemaForm
            schema={common}
            definitions={whole.$defs}
            value={content}
            path=""
            only={others}
            errors={errors}
            onChange={(next) =>
              setContent((now) => ({ ...picked(now, ["kind", "preset", "state", field]), ...next }))
            }
          />
        </details>
        {rest.map((problem) => (
          <p key={problem} className="text-[13px] text-bad">
            {problem}
          </p>
        ))}
        {good && changed && <Check of={thing} name={called} fields={content} />}
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

export type StartPoint = { content: Fields; shape?: Fields; found?: Proposal["credential"]; title: string };

/** The address of a part's page. */
export const pageOf = (thing: Thing, name: string) => `/${thing}/${encodeURIComponent(name)}`;
