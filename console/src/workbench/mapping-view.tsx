import { useState } from "react";
import type { Fields, KnownField } from "../api";
import { told } from "../completion";
import { bodyOf, proposal, proposed, type Row, rowsOf } from "../mapping";
import { Button } from "../ui/button";
import { brief } from "../words";

/** The destination's fields on one side, what fills them on the other. Writes the same shape as the text does. */
export function MappingView({
  shape,
  fields,
  onChange,
}: {
  shape: Fields | undefined;
  fields: KnownField[];
  onChange: (shape: Fields | undefined) => void;
}) {
  const found = rowsOf(shape?.body);
  const format = shape?.format ?? "json";
  const [example, setExample] = useState("");
  const [wrong, setWrong] = useState("");
  if (found === null || format === "text" || format === "none")
    return (
      <p className="rounded bg-inset px-3 py-2 text-[13px] text-ink-soft">
        This shape has parts that a table of fields cannot show: lists, repeats, conditions or plain text.
        Edit it as text.
      </p>
    );
  const write = (rows: Row[]) =>
    onChange(rows.length === 0 && !shape ? undefined : { ...shape, body: bodyOf(rows) });
  const change = (at: number, next: Row) => write(found.map((row, i) => (i === at ? next : row)));
  const open = found.filter((row) => row.source === "" && proposal(row, fields));
  const take = () => {
    try {
      const body = JSON.parse(example);
      const rows = rowsOf(body);
      if (!rows) {
        setWrong("It has lists in it; paste it as text instead.");
        return;
      }
      write(proposed(rows, fields));
      setExample("");
      setWrong("");
    } catch (error) {
      setWrong(`That is not JSON: ${error instanceof Error ? error.message : error}`);
    }
  };
  const cell = "h-7 w-full rounded border border-rule bg-sheet px-1.5 font-mono text-[12px]";
  return (
    <div className="space-y-2">
      <datalist id="mapping-sources">
        {fields
          .filter((field) => field.kind !== "object")
          .map((field) => (
            <option key={field.path} value={field.path}>
              {field.label ? `${field.label}, ${told(field)}` : told(field)}
            </option>
          ))}
      </datalist>
      {found.length === 0 && (
        <div className="rounded border border-dashed border-rule-strong p-3">
          <label className="block text-[13px]" htmlFor="mapping-example">
            Paste an example of the body the destination wants; its fields appear here, and those with equal
            names and fitting units are filled by themselves.
          </label>
          <textarea
            id="mapping-example"
            className="mt-1 h-20 w-full rounded border border-rule bg-sheet px-2 py-1 font-mono text-[12px]"
            spellCheck={false}
            value={example}
            placeholder='{"device": "…", "temperature_c": 21.5}'
            onChange={(event) => setExample(event.target.value)}
          />
          <Button onClick={take} disabled={example.trim() === ""}>
            Take these fields
          </Button>
          {wrong && <p className="mt-1 text-[12px] text-bad">{wrong}</p>}
        </div>
      )}
      {found.length > 0 && (
        <table className="w-full table-fixed">
          <thead>
            <tr>
              <th className="w-[34%]">The destination's field</th>
              <th>is filled by</th>
              <th className="w-[19%] pl-2!">last value</th>
              <th className="w-12 text-center!" title="Leave out if the field is absent">
                may miss
              </th>
              <th className="w-7" />
            </tr>
          </thead>
          <tbody>
            {found.map((row, at) => {
              const near = row.source === "" ? proposal(row, fields) : null;
              const known = fields.find((field) => field.path === row.source);
              return (
                // biome-ignore lint/suspicious/noArrayIndexKey: a row is where it stands; its name is being typed
                <tr key={at}>
                  <td className="py-0.5 pr-1">
                    <input
                      aria-label={`field ${at + 1}`}
                      className={cell}
                      value={row.path.join(".")}
                      onChange={(event) => change(at, { ...row, path: event.target.value.split(".") })}
                    />
                  </td>
                  <td className="py-0.5">
                    <input
                      aria-label={`what fills ${row.path.join(".")}`}
                      list="mapping-sources"
                      className={`${cell} ${row.source === "" ? "text-ink-faint" : ""}`}
                      value={row.source === "" ? JSON.stringify(row.constant ?? null) : row.source}
                      onFocus={(event) => row.source === "" && event.target.select()}
                      onChange={(event) => change(at, filled(row, event.target.value))}
                    />
                  </td>
                  <td className="truncate py-0.5 pl-2 text-[12px] text-ink-soft">
                    {near ? (
                      <button
                        type="button"
                        title={near}
                        className="text-accent underline underline-offset-2"
                        onClick={() => change(at, { ...row, source: near, constant: undefined })}
                      >
                        {near.split(".").pop()}?
                      </button>
                    ) : known ? (
                      told(known)
                    ) : row.source === "" ? (
                      <span title="same for every message">always {brief(row.constant)}</span>
                    ) : (
                      ""
                    )}
                  </td>
                  <td className="py-0.5 text-center">
                    <input
                      type="checkbox"
                      aria-label={`${row.path.join(".")} may be left out`}
                      checked={row.optional}
                      onChange={(event) => change(at, { ...row, optional: event.target.checked })}
                    />
                  </td>
                  <td className="py-0.5 text-right">
                    <button
                      type="button"
                      aria-label={`remove ${row.path.join(".")}`}
                      className="rounded px-1.5 text-ink-faint hover:bg-inset hover:text-bad"
                      onClick={() => write(found.filter((_, i) => i !== at))}
                    >
                      ×
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <div className="flex gap-2">
        <Button
          onClick={() =>
            write([...found, { path: [`field${found.length + 1}`], optional: false, source: "device.key" }])
          }
        >
          Add a field
        </Button>
        {open.length > 0 && (
          <Button look="main" onClick={() => write(proposed(found, fields))}>
            Take {open.length === 1 ? "the proposal" : `all ${open.length} proposals`}
          </Button>
        )}
      </div>
    </div>
  );
}

/** What a person typed into the right side: a constant as JSON writes it, or what is to be evaluated. */
export function filled(row: Row, text: string): Row {
  if (/^("([^"\\]|\\.)*"|-?\d+(\.\d+)?|true|false|null)$/.test(text))
    return { ...row, source: "", constant: JSON.parse(text) };
  return text === "" ? { ...row, source: "", constant: "" } : { ...row, source: text, constant: undefined };
}
