import { type ReactNode, useState } from "react";
import type { Fields } from "../api";
import { Choice } from "../ui/choice";
import { Field, Labelled } from "../ui/field";

/** What of JSON Schema (2020-12) the forms of kinds use. */
export type Schema = {
  title?: string;
  description?: string;
  type?: string | string[];
  enum?: string[];
  properties?: Record<string, Schema>;
  required?: string[];
  items?: Schema;
  additionalProperties?: boolean | Schema;
  default?: unknown;
  $ref?: string;
};

export type Widget = (props: {
  label: string;
  value: unknown;
  error: string | undefined;
  onChange: (value: unknown) => void;
}) => ReactNode;

const isObject = (schema: Schema) => schema.type === "object";
const words = (name: string) => name.replace(/([A-Z])/g, " $1").toLowerCase();

/** A form for an object, made from its schema; what is wrong stands beside the field it is about. */
export function SchemaForm({
  schema,
  value,
  path,
  errors,
  onChange,
  widgets = {},
  only,
}: {
  schema: Schema;
  value: Fields;
  /** Of this object in the part, such as {@code at}; empty for the part itself. */
  path: string;
  errors: Record<string, string>;
  onChange: (value: Fields) => void;
  /** Fields that have a way of their own to be filled in. */
  widgets?: Record<string, Widget>;
  only?: string[];
}) {
  const names = Object.keys(schema.properties ?? {}).filter((name) => !only || only.includes(name));
  const put = (name: string, next: unknown) => {
    const all = { ...value, [name]: next };
    if (next === undefined || next === "") delete all[name];
    onChange(all);
  };
  return (
    <div className="grid gap-x-5 gap-y-3 sm:grid-cols-2">
      {names.map((name) => {
        const field = schema.properties?.[name] ?? {};
        const at = path === "" ? name : `${path}.${name}`;
        const label = `${field.title ?? words(name)}${schema.required?.includes(name) ? "" : " (optional)"}`;
        const common = { label, hint: field.description, error: errors[at] };
        const widget = widgets[name];
        if (widget)
          return (
            <div key={name}>
              {widget({ label, value: value[name], error: errors[at], onChange: (next) => put(name, next) })}
            </div>
          );
        if (field.$ref) return null;
        if (isObject(field) && field.properties)
          return (
            <Group
              key={name}
              label={field.title ?? words(name)}
              about={field.description}
              open={value[name] !== undefined}
            >
              <SchemaForm
                schema={field}
                value={(value[name] as Fields | undefined) ?? {}}
                path={at}
                errors={errors}
                onChange={(next) => put(name, Object.keys(next).length === 0 ? undefined : next)}
              />
            </Group>
          );
        if (isObject(field))
          return <Pairs key={name} {...common} value={value[name]} onChange={(next) => put(name, next)} />;
        return (
          <Plain
            key={name}
            {...common}
            field={field}
            value={value[name]}
            onChange={(next) => put(name, next)}
          />
        );
      })}
    </div>
  );
}

function Group({
  label,
  about,
  open,
  children,
}: {
  label: string;
  about: string | undefined;
  open: boolean;
  children: ReactNode;
}) {
  return (
    <details open={open} className="rounded border border-rule px-3 py-2 sm:col-span-2">
      <summary className="cursor-pointer text-[13px] font-medium">
        {label} <span className="font-normal text-ink-faint">{about}</span>
      </summary>
      <div className="mt-2">{children}</div>
    </details>
  );
}

type Common = { label: string; hint?: string; error?: string };

function Plain({
  field,
  value,
  onChange,
  ...common
}: Common & { field: Schema; value: unknown; onChange: (value: unknown) => void }) {
  if (field.enum)
    return (
      <Labelled {...common}>
        {() => (
          <Choice
            label={String(field.default ?? "choose")}
            value={String(value ?? "")}
            options={field.enum ?? []}
            onChange={(next) => onChange(next || undefined)}
          />
        )}
      </Labelled>
    );
  if (field.type === "boolean")
    return (
      <Labelled {...common}>
        {(id) => (
          <input
            id={id}
            type="checkbox"
            checked={(value as boolean | undefined) ?? field.default === true}
            onChange={(event) => onChange(event.target.checked)}
          />
        )}
      </Labelled>
    );
  if (field.type === "array")
    return (
      <Field
        {...common}
        mono
        value={((value as string[] | undefined) ?? []).join(", ")}
        placeholder="one, another"
        onChange={(event) => {
          const items = event.target.value
            .split(",")
            .map((item) => item.trim())
            .filter((item) => item !== "");
          onChange(items.length === 0 ? undefined : items);
        }}
      />
    );
  const number = field.type === "integer" || field.type === "number";
  return (
    <Field
      {...common}
      mono
      inputMode={number ? "decimal" : undefined}
      value={String(value ?? "")}
      placeholder={field.default === undefined ? undefined : String(field.default)}
      onChange={(event) => {
        const text = event.target.value;
        onChange(number && /^-?\d+(\.\d+)?$/.test(text) ? Number(text) : text);
      }}
    />
  );
}

/** Names with values, a line each. */
function Pairs({
  value,
  onChange,
  ...common
}: Common & { value: unknown; onChange: (value: unknown) => void }) {
  const [text, setText] = useState(() =>
    Object.entries((value as Fields | undefined) ?? {})
      .map(([name, one]) => `${name}: ${one}`)
      .join("\n"),
  );
  return (
    <Labelled {...common}>
      {(id, described) => (
        <textarea
          id={id}
          aria-describedby={described}
          spellCheck={false}
          placeholder="name: value"
          className="h-16 w-full rounded border border-rule bg-sheet px-2.5 py-1 font-mono text-[12px]"
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            const pairs = event.target.value
              .split("\n")
              .map((line) => line.match(/^\s*([^:]+?)\s*:\s*(.*)$/))
              .filter((found) => found !== null)
              .map((found) => [found[1], found[2]]);
            onChange(pairs.length === 0 ? undefined : Object.fromEntries(pairs));
          }}
        />
      )}
    </Labelled>
  );
}
