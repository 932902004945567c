import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, type Fields, type LookupTable, Problem, type SetupProblem } from "../api";
import { Button } from "../ui/button";
import { Field } from "../ui/field";
import { Empty, Panel } from "../ui/panel";
import { typedValue } from "../workbench/subject";
import { Remove } from "./remove";

/** The lookups of the setup, edited as tables. */
export function LookupsPanel() {
  const tables = useQuery({ queryKey: ["lookups"], queryFn: api.tables });
  const [open, setOpen] = useState("");
  const [name, setName] = useState("");
  const list = tables.data ?? [];
  const fits = /^[a-z][a-z0-9-]{0,62}$/.test(name) && !list.some((one) => one.name === name);
  const chosen = list.find((one) => one.name === open);
  return (
    <div className="space-y-4">
      <Panel title="Lookups">
        {list.length === 0 && (
          <Empty title="No lookups yet">
            A lookup turns one thing into another, such as a pump's state code into the words of the works
            desk. Shapes use it with <code className="font-mono">lookup('name', data.state)</code>.
          </Empty>
        )}
        <ul>
          {list.map((table) => (
            <li key={table.name} className="border-b border-rule">
              <button
                type="button"
                aria-pressed={table.name === open}
                className={`flex w-full gap-3 px-4 py-1.5 text-left ${table.name === open ? "bg-accent-wash" : "hover:bg-inset"}`}
                onClick={() => setOpen(table.name === open ? "" : table.name)}
              >
                <span className="font-semibold">{table.name}</span>
                <span className="ml-auto text-[13px] text-ink-soft">
                  {Object.keys(table.rows).length} rows
                </span>
              </button>
            </li>
          ))}
        </ul>
        <form
          className="flex items-end gap-2 px-4 py-3"
          onSubmit={(event) => {
            event.preventDefault();
            if (fits) setOpen(name);
          }}
        >
          <div className="grow">
            <Field
              label="Name of the lookup"
              placeholder="pump-states"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          </div>
          <Button type="submit" disabled={!fits}>
            Create lookup
          </Button>
        </form>
      </Panel>
      {open !== "" && (
        <Table
          key={open + JSON.stringify(chosen)}
          name={open}
          table={chosen ?? { name: open, rows: {}, otherwise: null }}
          there={chosen !== undefined}
          onGone={() => setOpen("")}
        />
      )}
    </div>
  );
}

function Table({
  name,
  table,
  there,
  onGone,
}: {
  name: string;
  table: LookupTable;
  there: boolean;
  onGone: () => void;
}) {
  const client = useQueryClient();
  const [rows, setRows] = useState<[string, string][]>(() => [
    ...Object.entries(table.rows).map(([key, value]): [string, string] => [key, String(value)]),
    ["", ""],
  ]);
  const [otherwise, setOtherwise] = useState(String(table.otherwise ?? ""));
  const file = useRef<HTMLInputElement>(null);
  const content = (): Fields => ({
    ...(otherwise === "" ? {} : { default: typedValue(otherwise) }),
    rows: Object.fromEntries(
      rows.filter(([key]) => key !== "").map(([key, value]) => [key, typedValue(value) ?? ""]),
    ),
  });
  const save = useMutation({
    mutationFn: () =>
      api.adoptPart("lookups", name, { content: content(), basedOn: null, note: `lookup ${name}` }),
    onSuccess: () => client.invalidateQueries(),
  });
  const take = useMutation({
    mutationFn: async (chosen: File) => api.tableFromCsv(name, await chosen.text()),
    onSuccess: (taken) => {
      const found = (taken.rows ?? {}) as Record<string, unknown>;
      setRows([
        ...Object.entries(found).map(([key, value]): [string, string] => [key, String(value)]),
        ["", ""],
      ]);
    },
  });
  const change = (at: number, next: [string, string]) => {
    const all = rows.map((row, i): [string, string] => (i === at ? next : row));
    if (all[all.length - 1]?.[0] !== "") all.push(["", ""]);
    setRows(all);
  };
  const twice = rows.map(([key]) => key).filter((key, at, all) => key !== "" && all.indexOf(key) !== at);
  const cell = "h-7 w-full rounded border border-rule bg-sheet px-1.5 font-mono text-[12px]";
  const problems = save.error instanceof Problem ? ((save.error.more.problems as SetupProblem[]) ?? []) : [];
  return (
    <Panel
      title={name}
      aside={
        <>
          {there && (
            <a
              href={`/api/v1/lookups/${name}/csv`}
              download={`${name}.csv`}
              className="text-accent underline underline-offset-2"
            >
              CSV
            </a>
          )}
          <Button onClick={() => file.current?.click()}>From CSV…</Button>
          <input
            ref={file}
            type="file"
            accept=".csv,text/csv"
            aria-label="CSV file"
            className="sr-only"
            onChange={(event) => {
              const chosen = event.target.files?.[0];
              if (chosen) take.mutate(chosen);
              event.target.value = "";
            }}
          />
          {there && <Remove thing="lookups" name={name} onDone={onGone} />}
        </>
      }
    >
      <div className="space-y-3 px-4 py-3">
        <table className="w-full">
          <thead>
            <tr>
              <th className="w-1/3">What is looked up</th>
              <th>gives</th>
              <th className="w-7" />
            </tr>
          </thead>
          <tbody>
            {rows.map(([key, value], at) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a row is where it stands; its key is being typed
              <tr key={at}>
                <td className="py-0.5 pr-1">
                  <input
                    aria-label={`key ${at + 1}`}
                    className={cell}
                    value={key}
                    onChange={(event) => change(at, [event.target.value, value])}
                  />
                </td>
                <td className="py-0.5">
                  <input
                    aria-label={`value ${at + 1}`}
                    className={cell}
                    value={value}
                    onChange={(event) => change(at, [key, event.target.value])}
                  />
                </td>
                <td className="text-right">
                  {key !== "" && (
                    <button
                      type="button"
                      aria-label={`remove row ${key}`}
                      className="rounded px-1.5 text-ink-faint hover:bg-inset hover:text-bad"
                      onClick={() => setRows(rows.filter((_, i) => i !== at))}
                    >
                      ×
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <Field
          label="Default"
          mono
          value={otherwise}
          placeholder="none: the field is then left out"
          onChange={(event) => setOtherwise(event.target.value)}
        />
        <div className="flex items-center gap-3">
          <Button look="main" disabled={twice.length > 0 || save.isPending} onClick={() => save.mutate()}>
            Apply
          </Button>
          <span role="status" className="text-[13px]">
            {twice.length > 0 && <span className="text-bad">“{twice[0]}” is there twice.</span>}
            {take.isError && <span className="text-bad">{take.error.message}</span>}
            {save.isError && (
              <span className="text-bad">{problems[0] ? problems[0].what : save.error.message}</span>
            )}
            {save.data && <span className="text-good">Applied as revision {save.data.revision}.</span>}
          </span>
        </div>
      </div>
    </Panel>
  );
}
