import getDefaultRegistry from "@rjsf/core/lib/getDefaultRegistry.js";
import {
  ADDITIONAL_PROPERTY_FLAG,
  type ArrayFieldItemTemplateProps,
  type ArrayFieldTemplateProps,
  buttonId,
  canExpand,
  type FieldProps,
  type FieldTemplateProps,
  getUiOptions,
  type ObjectFieldTemplateProps,
  titleId,
  type WidgetProps,
  type WrapIfAdditionalTemplateProps,
} from "@rjsf/utils";
import { Checkbox, Collapsible } from "radix-ui";
import { type ComponentType, createContext, type ReactNode, useContext } from "react";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { Field, Told } from "../ui/field";
import { TYPES, typed } from "./form-schema";

const look = "w-full rounded border bg-sheet px-2.5 font-mono text-[12px] placeholder:text-ink-faint";

/** A field's title, or its name in words, and whether it may be left out. */
function name(label: string, required: boolean | undefined): string {
  const camel = /^[a-z]+([A-Z][a-z]*)*$/.test(label);
  const words = camel ? label.replace(/([A-Z])/g, " $1").toLowerCase() : label;
  return `${words.charAt(0).toUpperCase()}${words.slice(1)}${required ? "" : " (optional)"}`;
}

function TextWidget({ id, label, value, schema, rawErrors, onChange, placeholder, required }: WidgetProps) {
  const shared = {
    id,
    "aria-label": ADDITIONAL_PROPERTY_FLAG in schema ? `Value of ${label}` : undefined,
    "aria-describedby": `${id}-told`,
    "aria-invalid": rawErrors?.length ? (true as const) : undefined,
    "aria-required": required || undefined,
    spellCheck: false,
    value: String(value ?? ""),
    placeholder: placeholder || (schema.default === undefined ? undefined : String(schema.default)),
  };
  const told = (text: string) => onChange(text === "" ? undefined : typed(text, schema[TYPES]));
  const edge = rawErrors?.length ? "border-bad" : "border-rule";
  if (schema[TYPES]?.includes("object"))
    return (
      <textarea
        {...shared}
        key={String(JSON.stringify(value) === undefined)}
        value={undefined}
        defaultValue={
          typeof value === "string" || value === undefined ? value : JSON.stringify(value, null, 1)
        }
        rows={4}
        className={`${look} ${edge} py-1`}
        onChange={(e) => told(e.target.value)}
      />
    );
  return schema.contentMediaType ? (
    <textarea
      {...shared}
      rows={8}
      className={`${look} ${edge} py-1`}
      onChange={(e) => told(e.target.value)}
    />
  ) : (
    <input
      {...shared}
      inputMode={schema.type === "number" || schema.type === "integer" ? "decimal" : undefined}
      className={`${look} ${edge} h-8`}
      onChange={(e) => told(e.target.value)}
    />
  );
}

function SelectWidget({ id, value, schema, options, onChange }: WidgetProps) {
  return (
    <Choice
      id={id}
      label={String(schema.default ?? "choose")}
      value={String(value ?? "")}
      options={(options.enumOptions ?? []).map((one) => String(one.value))}
      onChange={(next) => onChange(next || undefined)}
    />
  );
}

function CheckboxWidget({ id, value, schema, label, required, rawErrors, onChange }: WidgetProps) {
  return (
    <div>
      <div className="flex items-center gap-2 pt-1">
        <Checkbox.Root
          id={id}
          aria-describedby={`${id}-told`}
          checked={value ?? schema.default === true}
          onCheckedChange={(next) => onChange(next === true)}
          className="grid size-4 place-items-center rounded-sm border border-rule-strong bg-sheet data-[state=checked]:border-accent data-[state=checked]:bg-accent"
        >
          <Checkbox.Indicator>
            <svg viewBox="0 0 12 12" className="size-3 text-sheet" aria-hidden="true">
              <path d="M2.5 6.5 5 9l4.5-6" fill="none" stroke="currentColor" strokeWidth="1.8" />
            </svg>
          </Checkbox.Indicator>
        </Checkbox.Root>
        <label htmlFor={id} className="text-[13px] font-medium">
          {name(label, required)}
        </label>
      </div>
      <Told id={`${id}-told`} error={rawErrors?.join("\n")} hint={schema.description} />
    </div>
  );
}

/** A label, the field, and what is known or wrong of it; a line of its own where the field has several. */
function FieldTemplate(props: FieldTemplateProps) {
  const { id, children, label, required, rawErrors, rawDescription, hidden, displayLabel, schema, registry } =
    props;
  if (hidden) return <div hidden>{children}</div>;
  const entry = ADDITIONAL_PROPERTY_FLAG in schema;
  const Wrap = registry.templates.WrapIfAdditionalTemplate;
  const simple = displayLabel && schema.type !== "object" && schema.type !== "array";
  const container = schema.type === "object" || (schema.type === "array" && !isTextList(schema));
  return (
    <div className={container && !entry ? "min-w-0 sm:col-span-2" : "min-w-0"}>
      <Wrap {...props}>
        {simple && !entry && (
          <label htmlFor={id} className="mb-0.5 block text-[13px] font-medium">
            {name(label, required)}
          </label>
        )}
        {children}
        {simple ? (
          <Told id={`${id}-told`} error={rawErrors?.join("\n")} hint={entry ? undefined : rawDescription} />
        ) : (
          container && <Told id={`${id}-told`} error={rawErrors?.join("\n")} />
        )}
      </Wrap>
    </div>
  );
}

function Group({
  id,
  title,
  about,
  control,
  children,
}: {
  id: string;
  title: string;
  about: ReactNode;
  control: ReactNode;
  children?: ReactNode;
}) {
  return (
    <fieldset aria-labelledby={id} className="min-w-0 rounded border border-rule px-3 pt-1.5 pb-2">
      <div className="flex min-h-7 flex-wrap items-center gap-x-3">
        <span id={id} className="text-[13px] font-medium">
          {title}
        </span>
        <span className="min-w-0 grow text-[12px] text-ink-faint">{about}</span>
        {control}
      </div>
      {children}
    </fieldset>
  );
}

const grid = "grid gap-x-5 gap-y-3 sm:grid-cols-2";

function ObjectFieldTemplate(props: ObjectFieldTemplateProps) {
  const { title, properties, fieldPathId, schema, uiSchema, formData, required } = props;
  const content = properties.map((one) => (
    <div key={one.name} className={one.hidden ? "hidden" : "contents"}>
      {one.content}
    </div>
  ));
  const its = fieldPathId.path.at(-1);
  const fields = <div className={grid}>{content}</div>;
  if (its === undefined || typeof its === "number" || ADDITIONAL_PROPERTY_FLAG in schema) return fields;
  const about = { id: titleId(fieldPathId), title: name(title, required), about: schema.description };
  if (schema.additionalProperties)
    return (
      <Group
        {...about}
        control={
          canExpand(schema, uiSchema, formData) && (
            <Button id={buttonId(fieldPathId, "add")} look="quiet" onClick={props.onAddProperty}>
              Add
            </Button>
          )
        }
      >
        {properties.length > 0 && <div className="mt-1.5 space-y-2">{content}</div>}
      </Group>
    );
  return (
    <Foldable
      {...about}
      open={!schema["x-folded"] && (required === true || Object.keys(formData ?? {}).length > 0)}
      isFilled={Object.keys(formData ?? {}).length > 0}
    >
      {fields}
    </Foldable>
  );
}

/** A part that is shown where something of it is filled in, and otherwise once a person wants it. */
function Foldable({
  open,
  isFilled,
  children,
  ...about
}: {
  id: string;
  title: string;
  about: ReactNode;
  open: boolean;
  isFilled: boolean;
  children: ReactNode;
}) {
  return (
    <Collapsible.Root defaultOpen={open}>
      <Group
        {...about}
        control={
          <Collapsible.Trigger asChild>
            <Button look="quiet" className="group/fold" aria-label={`Show or hide ${about.title}`}>
              <span className="group-data-[state=open]/fold:hidden">{isFilled ? "Show" : "Fill in"}</span>
              <span className="group-data-[state=closed]/fold:hidden">Hide</span>
            </Button>
          </Collapsible.Trigger>
        }
      >
        <Collapsible.Content className="mt-2">{children}</Collapsible.Content>
      </Group>
    </Collapsible.Root>
  );
}

function ArrayFieldTemplate(props: ArrayFieldTemplateProps) {
  const { title, schema, items, canAdd, onAddClick, fieldPathId, required } = props;
  return (
    <Group
      id={titleId(fieldPathId)}
      title={name(title, required)}
      about={schema.description}
      control={
        canAdd && (
          <Button id={buttonId(fieldPathId, "add")} look="quiet" onClick={onAddClick}>
            Add
          </Button>
        )
      }
    >
      {items.length > 0 && <div className="mt-2 space-y-3">{items}</div>}
    </Group>
  );
}

function ArrayFieldItemTemplate({
  children,
  buttonsProps: its,
  index,
  hasToolbar,
}: ArrayFieldItemTemplateProps) {
  return (
    <div className="flex items-start gap-2 border-l-2 border-rule-strong pl-3">
      <div className="min-w-0 grow">{children}</div>
      {hasToolbar && (
        <div className="flex shrink-0 flex-col gap-1">
          {its.hasMoveUp && (
            <Button look="quiet" aria-label={`Move ${index + 1} up`} onClick={its.onMoveUpItem}>
              ↑
            </Button>
          )}
          {its.hasMoveDown && (
            <Button look="quiet" aria-label={`Move ${index + 1} down`} onClick={its.onMoveDownItem}>
              ↓
            </Button>
          )}
          {its.hasRemove && (
            <Button look="quiet" aria-label={`Remove ${index + 1}`} onClick={its.onRemoveItem}>
              ✕
            </Button>
          )}
        </div>
      )}
    </div>
  );
}

/** An entry of a map: its name, its value, and a way to remove it. */
function WrapIfAdditional(props: WrapIfAdditionalTemplateProps) {
  const { schema, children, id, label, onKeyRenameBlur, onRemoveProperty } = props;
  if (!(ADDITIONAL_PROPERTY_FLAG in schema)) return children;
  const nested = schema.type === "object" || schema.type === "array";
  const remove = (
    <Button look="quiet" aria-label={`Remove ${label}`} onClick={onRemoveProperty}>
      ✕
    </Button>
  );
  return (
    <div className={nested ? "space-y-1.5 border-l-2 border-rule-strong pl-3" : "flex items-start gap-2"}>
      <div className={nested ? "flex gap-2" : "contents"}>
        <input
          id={`${id}-key`}
          key={label}
          aria-label={`Key of ${label}`}
          defaultValue={label}
          spellCheck={false}
          onBlur={(event) => {
            const called = event.target.value;
            const onward = event.relatedTarget?.id === id;
            onKeyRenameBlur(event);
            // The library makes the fields of a renamed entry anew, and the focus would be lost.
            if (onward && called !== label)
              setTimeout(() => document.getElementById(id.slice(0, -label.length) + called)?.focus());
          }}
          className={`h-8 border-rule ${look} ${nested ? "max-w-60" : "max-w-44 shrink-0"}`}
        />
        {nested && remove}
      </div>
      <div className="min-w-0 grow">{children}</div>
      {!nested && remove}
    </div>
  );
}

function isTextList(schema: { items?: unknown }): boolean {
  const items = schema.items as { type?: unknown; enum?: unknown } | undefined;
  return items?.type === "string" && items.enum === undefined;
}

const ListField = getDefaultRegistry().fields.ArrayField as ComponentType<FieldProps>;

/** A list of short texts in one line; other lists entry by entry. */
function ArrayField(props: FieldProps) {
  const { schema, formData, onChange, fieldPathId, required, uiSchema, rawErrors } = props;
  if (!isTextList(schema)) return <ListField {...props} />;
  return (
    <Field
      label={name(getUiOptions(uiSchema).title ?? schema.title ?? props.name, required)}
      hint={schema.description}
      error={rawErrors?.join("\n")}
      mono
      defaultValue={((formData as string[] | undefined) ?? []).join(", ")}
      placeholder="one, another"
      onChange={(event) => {
        const items = event.target.value
          .split(",")
          .map((item) => item.trim())
          .filter((item) => item !== "");
        onChange(items.length === 0 ? undefined : items, fieldPathId.path);
      }}
    />
  );
}

/** A field that has a way of its own to be filled in. */
export type Widget = (props: {
  label: string;
  value: unknown;
  error: string | undefined;
  onChange: (value: unknown) => void;
}) => ReactNode;

/** By context, since the library renders a field again only where its data have changed. */
export const OwnWidgets = createContext<Record<string, Widget>>({});

function OwnField(props: FieldProps) {
  const widget = useContext(OwnWidgets)[props.name];
  return widget?.({
    label: name(props.schema.title ?? props.name, props.required),
    value: props.formData,
    error: props.rawErrors?.join("\n"),
    onChange: (next) => props.onChange(next === "" ? undefined : next, props.fieldPathId.path),
  });
}

export const widgets = { TextWidget, SelectWidget, CheckboxWidget };
export const fields = { ArrayField, OwnField };
export const templates = {
  FieldTemplate,
  ObjectFieldTemplate,
  ArrayFieldTemplate,
  ArrayFieldItemTemplate,
  WrapIfAdditionalTemplate: WrapIfAdditional,
};
