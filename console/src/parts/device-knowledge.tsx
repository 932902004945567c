import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { api, type Device, type Knowledge } from "../api";
import { factValue } from "../facts";
import { Button } from "../ui/button";
import { Panel } from "../ui/panel";
import { Time } from "../ui/time";
import { figure } from "../words";

const field = "h-8 w-full rounded border border-rule bg-sheet px-2.5 text-[13px]";

/** What people know of a device; every change is a revision. */
export function Known({ device }: { device: Device }) {
  const client = useQueryClient();
  const [facts, setFacts] = useState<[string, string][]>(
    Object.entries(device.facts)
      .sort()
      .map(([name, value]) => [name, String(value)]),
  );
  const [more, setMore] = useState({
    model: device.model ?? "",
    zone: device.zone ?? "",
    installed: device.installed ?? "",
    silentAfter: device.silentAfter ?? "",
  });
  const save = useMutation({
    mutationFn: () => {
      const known: Knowledge = {
        model: more.model || null,
        facts: Object.fromEntries(
          facts.filter(([name, value]) => name !== "" && value !== "").map(([n, v]) => [n, factValue(v)]),
        ),
        points: device.points,
        zone: more.zone || null,
        installed: more.installed || null,
        silentAfter: more.silentAfter || null,
      };
      return api.know(device.key, known);
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ["device", device.key] }),
  });
  const edit = (at: number, name: string, value: string) =>
    setFacts(facts.map((fact, i) => (i === at ? [name, value] : fact)));
  const rows: [keyof typeof more, string, string][] = [
    ["model", "model", "such as climate-station"],
    ["zone", "time zone", "that of its inlet"],
    ["installed", "installed", "an instant, such as 2026-03-01T00:00:00Z"],
    ["silentAfter", "silent after", "its model's or its own rhythm"],
  ];
  return (
    <Panel title="Facts" aside={`revision ${device.revision}`}>
      <form
        className="space-y-3 px-4 py-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <div className="grid grid-cols-[9rem_1fr] items-center gap-x-2 gap-y-1.5">
          {rows.map(([name, label, hint]) => (
            <Row key={name} label={label}>
              <input
                aria-label={label}
                className={field}
                placeholder={hint}
                value={more[name]}
                onChange={(event) => setMore({ ...more, [name]: event.target.value.trim() })}
              />
            </Row>
          ))}
          {facts.map(([name, value], at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: rows are edited in place and have no other identity
            <div key={at} className="contents">
              <input
                aria-label={`Name of fact ${at + 1}`}
                className={`${field} font-medium`}
                value={name}
                onChange={(event) => edit(at, event.target.value.trim(), value)}
              />
              <input
                aria-label={`Value of ${name || "the new fact"}`}
                className={field}
                value={value}
                onChange={(event) => edit(at, name, event.target.value)}
              />
            </div>
          ))}
        </div>
        <div className="flex items-center gap-2">
          <Button onClick={() => setFacts([...facts, ["", ""]])}>Add a fact</Button>
          <Button type="submit" look="main" disabled={save.isPending}>
            Save
          </Button>
          <span role="status" className="text-[13px] text-bad">
            {save.isError && save.error.message}
          </span>
        </div>
      </form>
    </Panel>
  );
}

/** What was known of it before, so that an old message can be understood. */
export function Earlier({ device }: { device: Device }) {
  const revisions = useQuery({
    queryKey: ["device", device.key, "revisions", device.revision],
    queryFn: () => api.revisions(device.key),
  });
  const list = revisions.data ?? [];
  if (list.length === 0) return null;
  return (
    <Panel title="Earlier facts">
      <ul className="max-h-48 overflow-auto">
        {list.map((one) => (
          <li key={one.revision} className="border-b border-rule px-4 py-1 text-[13px] last:border-0">
            revision {one.revision}, until <Time instant={one.until} />, changed by {one.by}
            <p className="text-ink-soft">
              {one.knowledge.model ?? "no model"}
              {Object.entries(one.knowledge.facts)
                .sort()
                .map(([name, value]) => `, ${name} ${value}`)
                .join("")}
            </p>
          </li>
        ))}
      </ul>
    </Panel>
  );
}

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="contents">
      <span className="text-[13px] text-ink-faint">{label}</span>
      {children}
    </div>
  );
}

export function Points({ device }: { device: Device }) {
  const models = useQuery({ queryKey: ["models"], queryFn: api.models });
  const declared = models.data?.find((model) => model.name === device.model)?.points ?? {};
  const names = [...new Set([...Object.keys(declared), ...Object.keys(device.points)])];
  if (names.length === 0) return null;
  return (
    <Panel title="Measuring points">
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
            <th>Point</th>
            <th>Reference</th>
            <th>Values</th>
          </tr>
        </thead>
        <tbody>
          {names.map((name) => (
            <tr key={name} className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1">
              <td className="font-medium">{name}</td>
              <td className="font-mono text-[12px]">{device.points[name]?.reference ?? "–"}</td>
              <td className="text-[13px] text-ink-soft">
                {Object.entries(declared[name]?.fields ?? {})
                  .map(([own, data]) => {
                    const value = device.values?.[data]?.value;
                    return `${own} ${typeof value === "number" ? figure(value) : (value ?? "none")}`;
                  })
                  .join(", ")}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  );
}
