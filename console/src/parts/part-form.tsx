import { api, type Fields, type Part, type Proposal, type Thing } from "../api";
import { picked, refined, type Schema } from "../forms/form-schema";
import type { Widget } from "../forms/theme";
import { Check } from "./check";
import { ConnectionField } from "./connection-field";
import { InletCredential, OutletCredential } from "./credential-field";
import { PlacesField } from "./places-field";
import { SchemaForm } from "./schema-form";
import { type Settings, SettingsForm } from "./settings-form";
import { DraftTrial } from "./step-trial";

/** What has a kind, and settings of it. */
type Connectable = "inlets" | "outlets" | "connections";

/** The form of an inlet, an outlet or what they share, made from the JSON Schema of its kind. */
export function PartForm({
  thing,
  found,
  ...form
}: {
  thing: Connectable;
  name: string;
  part?: Part;
  start: Fields;
  found?: Proposal["credential"];
  applied?: number;
  onAdopted: (name: string, revision: number) => void;
}) {
  return (
    <SettingsForm thing={thing} {...form}>
      {(settings) => (
        <>
          <KindFields thing={thing} settings={settings} found={found} />
          {settings.applicable && (
            <Check
              of={thing}
              name={settings.called}
              fields={settings.content}
              onAccept={(its) =>
                settings.change((now) => {
                  const field = settingsOf(thing);
                  return { ...now, [field]: { ...(now[field] as Fields | undefined), ...its } };
                })
              }
            />
          )}
          {settings.applicable && thing === "outlets" && settings.content.introduction !== undefined && (
            <DraftTrial outlet={settings.called} fields={settings.content} />
          )}
        </>
      )}
    </SettingsForm>
  );
}

/** Where the settings of its kind stand in a part. */
const settingsOf = (thing: Connectable) => (thing === "inlets" ? "at" : "to");

/** Takes settings that a check proposed over into the active inlet or outlet. */
export async function acceptSettings(thing: Connectable, name: string, settings: Fields) {
  const part = await api.part(thing, name);
  const field = settingsOf(thing);
  const content = {
    ...(part.content ?? {}),
    [field]: { ...(part.content?.[field] as Fields | undefined), ...settings },
  };
  return api.adoptPart(thing, name, {
    content,
    basedOn: part.mark,
    note: `${Object.keys(settings).join(", ")}, as the check proposed`,
  });
}

function KindFields({
  thing,
  settings,
  found,
}: {
  thing: Connectable;
  settings: Settings;
  found?: Proposal["credential"];
}) {
  const { called, content, change, errors, definitions } = settings;
  const field = settingsOf(thing);
  const { allOf, ...every } = settings.schema;
  const common = refined(every, allOf?.find((one) => one.if.properties.kind.const === content.kind)?.then);
  const own = common.properties?.[field];
  const at = errors[field];
  const others = Object.keys(common.properties ?? {}).filter(
    (one) => !["kind", "at", "to", "state", "preset"].includes(one),
  );
  return (
    <>
      {own && (
        <SchemaForm
          schema={own}
          value={(content[field] as Fields | undefined) ?? {}}
          path={field}
          errors={errors}
          onChange={(next) => change((now) => ({ ...now, [field]: next }))}
          widgets={{
            credential: (props) =>
              thing === "inlets" ? (
                <InletCredential {...props} name={called} kind={String(content.kind)} />
              ) : (
                <OutletCredential
                  {...props}
                  name={called}
                  kind={String(content.kind)}
                  of={thing === "outlets" ? "outlet" : "connection"}
                  found={found}
                />
              ),
            ...(own.properties?.connection && {
              connection: (props) => <ConnectionField {...props} kind={String(content.kind)} />,
            }),
            ...looked(own, (content[field] as Fields | undefined)?.connection),
          }}
        />
      )}
      {at && <p className="text-[12px] text-bad">{at}</p>}
      {others.length > 0 && (
        <details open={thing === "inlets"} className="border-t border-rule pt-3">
          <summary className="mb-2 cursor-pointer text-[13px] font-semibold">
            {thing === "inlets" ? "Reading" : "Introduction, verdicts, pace, batches and costs"}
          </summary>
          <SchemaForm
            schema={common}
            definitions={definitions}
            value={content}
            path=""
            only={others}
            errors={errors}
            onChange={(next) =>
              change((now) => ({ ...picked(now, ["kind", "preset", "state", field]), ...next }))
            }
          />
        </details>
      )}
    </>
  );
}

/** Lists that a look around the connection can fill, by the name of the field. */
function looked(schema: Schema, connection: unknown): Record<string, Widget> {
  const lists = Object.entries(schema.properties ?? {}).filter(([, its]) => its["x-look"]);
  return Object.fromEntries(
    lists.map(([name, its]) => [
      name,
      (props: Parameters<Widget>[0]) => (
        <PlacesField
          {...props}
          look={its["x-look"]}
          connection={typeof connection === "string" ? connection : ""}
        />
      ),
    ]),
  );
}

export type StartPoint = { content: Fields; shape?: Fields; found?: Proposal["credential"]; title: string };

/** The address of a part's page. */
export const pageOf = (thing: Thing, name: string) => `/${thing}/${encodeURIComponent(name)}`;
