import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api";
import { picked } from "../forms/form-schema";
import { Failure, Loading } from "../ui/panel";
import { SchemaForm } from "./schema-form";
import { type Settings, SettingsForm } from "./settings-form";

/** What devices of a model have in common beside their codec. */
const SAID = ["fields", "points", "shows", "facts", "silentAfter"];

const fields = ({ schema, definitions, content, change, errors }: Settings) => (
  <SchemaForm
    schema={schema}
    definitions={definitions}
    value={content}
    path=""
    only={SAID}
    errors={errors}
    onChange={(next) => change((now) => ({ ...picked(now, ["codec"]), ...next }))}
  />
);

/** The form of what a model says of its devices' fields, points, facts and silence. */
export function ModelForm({ name }: { name: string }) {
  const [applied, setApplied] = useState<number>();
  const part = useQuery({ queryKey: ["part", "models", name], queryFn: () => api.part("models", name) });
  if (part.isError && !part.data) return <Failure error={part.error} />;
  if (!part.data?.content) return <Loading />;
  return (
    <SettingsForm
      key={part.data.mark}
      thing="models"
      name={name}
      part={part.data}
      start={part.data.content}
      applied={applied}
      onAdopted={(_, revision) => {
        setApplied(revision);
        part.refetch();
      }}
    >
      {fields}
    </SettingsForm>
  );
}

/** The form of a model whose devices send readable data, and need no codec. */
export function NewModelForm({ onMade }: { onMade: (name: string) => void }) {
  return (
    <SettingsForm thing="models" name="" start={{}} onAdopted={onMade}>
      {(settings) => (
        <>
          <p className="text-[13px] text-ink-soft">
            For devices that send readable data. If theirs are bytes, attach a codec above; that makes the
            model too.
          </p>
          {fields(settings)}
        </>
      )}
    </SettingsForm>
  );
}
