import { useQuery } from "@tanstack/react-query";
import { api, type Fields, type SetupProblem } from "../api";
import type { Schema } from "../forms/form-schema";
import { SchemaForm } from "../parts/schema-form";
import { Segments } from "../ui/field";

const operations = [
  ["none", "nothing"],
  ["downsample", "downsample"],
  ["changed", "changed"],
  ["join", "join"],
  ["increase", "increase"],
  ["split", "split"],
] as const;

type Operation = (typeof operations)[number][0];

const starts: Record<Operation, Fields> = {
  none: {},
  downsample: { every: "15m" },
  changed: { longest: "1h" },
  join: { count: 2, within: "1m" },
  increase: { per: "hour" },
  split: {},
};

const does: Record<Operation, string> = {
  none: "Each message is passed on by itself.",
  downsample: "One message per interval, from all messages received in it.",
  changed: "Only messages that tell something new.",
  join: "Messages that belong together are joined into one.",
  increase: "By how much counters rose.",
  split: "One message becomes many.",
};

const operationOf = (memory: Fields | undefined): Operation =>
  operations.find(([one]) => memory && one in memory)?.[0] ?? "none";

/** What the lane makes of several messages. */
export function MemoryForm({
  name,
  memory,
  problems,
  onChange,
}: {
  name: string;
  memory: Fields | undefined;
  problems: SetupProblem[];
  onChange: (memory: Fields | undefined) => void;
}) {
  const schema = useQuery({
    queryKey: ["setup-schema"],
    queryFn: api.setupSchema,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const chosen = operationOf(memory);
  const own = (schema.data as unknown as { $defs: Record<string, Schema> } | undefined)?.$defs.lane
    ?.properties?.memory;
  const errors: Record<string, string> = {};
  const rest: string[] = [];
  for (const problem of problems) {
    const prefix = `lanes.${name}.memory`;
    if (problem.where.startsWith(`${prefix}.`)) errors[problem.where.slice(prefix.length + 1)] = problem.what;
    else if (problem.where === prefix) rest.push(problem.what);
  }
  const choose = (operation: Operation) => {
    const common: Fields = {};
    for (const field of ["key", "zone", "lateness", "late"])
      if (memory?.[field] !== undefined) common[field] = memory[field];
    onChange(operation === "none" ? undefined : { ...common, [operation]: starts[operation] });
  };
  return (
    <div>
      <h3 className="mb-1 text-[13px] font-medium">Combine messages</h3>
      <Segments label="Combine messages" value={chosen} options={operations} onChange={choose} />
      <p className="mt-0.5 text-[12px] text-ink-faint">{does[chosen]}</p>
      {rest.map((one) => (
        <p key={one} role="alert" className="mt-1 text-[12px] text-bad">
          {one}
        </p>
      ))}
      {own && memory && chosen !== "none" && (
        <div className="mt-2 space-y-3 rounded border border-rule px-3 py-2">
          <SchemaForm
            schema={own.properties?.[chosen] ?? {}}
            value={(memory[chosen] as Fields | undefined) ?? {}}
            path={chosen}
            errors={errors}
            onChange={(next) => onChange({ ...memory, [chosen]: next })}
          />
          {chosen !== "split" && (
            <SchemaForm
              schema={own}
              value={memory}
              path=""
              only={["key", "zone", "lateness", "late"]}
              errors={errors}
              onChange={(next) => onChange({ ...next, [chosen]: memory[chosen] })}
            />
          )}
        </div>
      )}
    </div>
  );
}
