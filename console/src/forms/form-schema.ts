import { Validator } from "@cfworker/json-schema";
import {
  type ErrorSchema,
  englishStringTranslator,
  type RJSFSchema,
  TranslatableString,
  type ValidatorType,
} from "@rjsf/utils";
import type { Fields } from "../api";
import type { Looking } from "../looking";

/** What of JSON Schema (2020-12) the forms use. */
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
  /** Of an object: shown folded, though something of it is filled in. */
  "x-folded"?: boolean;
  /** Of a list: what comes over a connection can be ticked for it. */
  "x-look"?: Looking;
};

/** Where a schema allows more than text, the types that text stands for; read back by {@link typed}. */
export const TYPES = "x-types";

/** A schema as the form library takes it: what may be text, or a number, or a truth value is a field of text. */
export function formSchema(schema: object): RJSFSchema {
  const walk = (one: unknown): unknown => {
    if (Array.isArray(one)) return one.map(walk);
    if (one === null || typeof one !== "object") return one;
    const plain: Record<string, unknown> = {};
    for (const [name, value] of Object.entries(one)) plain[name] = name === "enum" ? value : walk(value);
    if (Array.isArray(plain.type)) {
      plain[TYPES] = plain.type;
      plain.type = "string";
      delete plain.pattern;
    }
    return plain;
  };
  return walk(schema) as RJSFSchema;
}

/** The value that a person's text stands for, where a field takes others than text. */
export function typed(text: string, types: readonly string[] | undefined): unknown {
  if (types?.includes("boolean") && (text === "true" || text === "false")) return text === "true";
  if (types?.includes("object") && /^\s*[{[]/.test(text)) {
    try {
      return JSON.parse(text);
    } catch {
      return text; // still being written; the check says so if it stays
    }
  }
  const number = types?.includes("number") || types?.includes("integer");
  return number && text.trim() !== "" && String(Number(text)) === text ? Number(text) : text;
}

/** Some properties of an object schema. */
export function only(schema: Schema, names: string[] | undefined): Schema {
  if (!names) return schema;
  const properties = Object.entries(schema.properties ?? {}).filter(([name]) => names.includes(name));
  return {
    ...schema,
    properties: Object.fromEntries(properties),
    required: schema.required?.filter((name) => names.includes(name)),
  };
}

/** Some fields of an object. */
export const picked = (value: Fields, names: string[]): Fields =>
  Object.fromEntries(Object.entries(value).filter(([name]) => names.includes(name)));

/** A schema with what another says of the same properties in more detail. */
export function refined(schema: Schema, more: Schema | undefined): Schema {
  if (!more) return schema;
  const properties = { ...schema.properties };
  for (const [name, one] of Object.entries(more.properties ?? {}))
    properties[name] = refined(properties[name] ?? {}, one);
  return { ...schema, ...more, ...(Object.keys(properties).length > 0 && { properties }) };
}

/**
 * Content without what is empty: a field that was cleared is one that was never filled in, and so is a part of which nothing
 * is. An entry that a person named stays.
 */
export function filled(value: Fields, schema: Schema): Fields {
  const kept: Fields = {};
  for (const [name, one] of Object.entries(value)) {
    const its = schema.properties?.[name];
    const next = content(one, its ?? (schema.additionalProperties as Schema | undefined) ?? {});
    if (!its || !isEmpty(next)) kept[name] = next;
  }
  return kept;
}

function content(value: unknown, schema: Schema): unknown {
  if (Array.isArray(value)) return value.map((one) => content(one, schema.items ?? {}));
  return isObject(value) ? filled(value, schema) : value;
}

const isObject = (value: unknown): value is Fields => value !== null && typeof value === "object";

const isEmpty = (value: unknown) =>
  value === undefined || value === "" || (isObject(value) && Object.keys(value).length === 0);

/** Problems by their place, such as {@code at.url} or {@code verdicts.0.when}, as the form library takes them. */
export function errorTree(errors: Record<string, string>, path: string): ErrorSchema<Fields> {
  const tree: Record<string, unknown> = {};
  for (const [where, what] of Object.entries(errors)) {
    if (path !== "" && !where.startsWith(`${path}.`)) continue;
    const names = (path === "" ? where : where.slice(path.length + 1)).split(".");
    const missing = what.match(/^`(\w+)` is missing$/);
    if (missing?.[1]) names.push(missing[1]);
    let at = tree;
    for (const name of names) {
      at[name] ??= {};
      at = at[name] as Record<string, unknown>;
    }
    at.__errors = [...((at.__errors as string[] | undefined) ?? []), what];
  }
  return tree as ErrorSchema<Fields>;
}

/** What the form library writes of its own. */
export const texts = (text: TranslatableString, params?: string[]) =>
  text === TranslatableString.NewStringDefault ? "" : englishStringTranslator(text, params);

/**
 * Tells the form library which alternative of a schema some data are of. What is wrong with them, the service says: it knows
 * more than the schema does.
 */
export const alternatives: ValidatorType<Fields> = {
  validateFormData: () => ({ errors: [], errorSchema: {} }),
  rawValidation: () => ({}),
  isValid: (schema, data, root) =>
    new Validator({ ...schema, $defs: root.$defs } as never, "2020-12").validate(data ?? {}).valid,
};
