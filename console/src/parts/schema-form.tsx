import Form from "@rjsf/core/lib/components/Form.js";
import type { RJSFSchema, UiSchema } from "@rjsf/utils";
import { useId, useMemo } from "react";
import type { Fields } from "../api";
import {
  alternatives,
  errorTree,
  filled,
  formSchema,
  only as part,
  picked,
  type Schema,
  texts,
} from "../forms/form-schema";
import { fields, widgets as looks, OwnWidgets, templates, type Widget } from "../forms/theme";

/** A form for an object, made from its schema; what is wrong stands beside the field it is about. */
export function SchemaForm({
  schema,
  definitions,
  value,
  path,
  errors,
  onChange,
  widgets = {},
  only,
}: {
  schema: Schema;
  /** What its references refer to. */
  definitions?: Record<string, Schema>;
  value: Fields;
  /** Of this object in the part, such as {@code at}; empty for the part itself. */
  path: string;
  errors: Record<string, string>;
  onChange: (value: Fields) => void;
  /** Fields that have a way of their own to be filled in. */
  widgets?: Record<string, Widget>;
  /** The fields of the object that are shown and told of; all if not given. */
  only?: string[];
}) {
  const id = useId();
  const names = only?.join();
  const shown = useMemo(
    () => ({
      ...formSchema(part(schema, names?.split(","))),
      title: undefined,
      $defs: definitions && formSchema(definitions),
    }),
    [schema, definitions, names],
  );
  const ui: UiSchema = {
    "ui:submitButtonOptions": { norender: true },
  };
  for (const name of Object.keys(widgets)) ui[name] = { "ui:field": "OwnField" };
  return (
    <OwnWidgets.Provider value={widgets}>
      <Form
        idPrefix={id}
        tagName="div"
        schema={shown as RJSFSchema}
        uiSchema={ui}
        formData={only ? picked(value, only) : value}
        validator={alternatives}
        widgets={looks}
        fields={fields}
        templates={templates}
        translateString={texts}
        showErrorList={false}
        extraErrors={errorTree(errors, path)}
        experimental_defaultFormStateBehavior={{
          emptyObjectFields: "skipDefaults",
          constAsDefaults: "never",
        }}
        onChange={(event) => onChange(filled(event.formData ?? {}, schema))}
      >
        {null}
      </Form>
    </OwnWidgets.Provider>
  );
}
