import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Proposal } from "../api";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { Code } from "../ui/code";
import { Field, Labelled } from "../ui/field";

/** The inlet or outlet it is for. */
type Part = { name: string; kind: string };

type Props = {
  label: string;
  value: unknown;
  error: string | undefined;
  onChange: (value: unknown) => void;
};

/** The credential that senders of an inlet are checked by: one there is, or a secret made here and shown once. */
export function InletCredential({ label, value, error, onChange, name, kind }: Props & Part) {
  const client = useQueryClient();
  const forms = useForms(kind, "inlet");
  const all = useQuery({ queryKey: ["credentials"], queryFn: api.credentials });
  const there = all.data?.some((one) => one.name === value);
  const made = forms.filter((one) => one.canBeMade);
  const [chosen, setForm] = useState("");
  const form = chosen || made[0]?.form || "";
  const make = useMutation({
    mutationFn: () => api.makeSecret(String(value || name), form),
    onSuccess: async (made) => {
      onChange(made.name);
      await client.invalidateQueries({ queryKey: ["credentials"] });
    },
  });
  const rotate = useMutation({ mutationFn: () => api.rotateSecret(String(value), "1d") });
  const secret = rotate.data?.secret ?? make.data?.secret;
  return (
    <Labelled label={label} error={secret ? undefined : error}>
      {() => (
        <div className="space-y-2">
          <div className="flex flex-wrap items-center gap-2">
            <Choice
              label="credential"
              value={String(value ?? "")}
              options={(all.data ?? []).map((one) => one.name)}
              onChange={(next) => onChange(next || undefined)}
            />
            {there ? (
              <Button
                title="Makes a new secret; the old one stays valid for one day"
                disabled={rotate.isPending}
                onClick={() => rotate.mutate()}
              >
                Rotate secret
              </Button>
            ) : (
              <>
                <Choice
                  label="form"
                  value={form}
                  options={made.map((one) => one.form)}
                  onChange={(next) => setForm(next || "")}
                />
                <Button
                  look="main"
                  disabled={make.isPending || name === "" || form === ""}
                  onClick={() => make.mutate()}
                >
                  Make a secret
                </Button>
              </>
            )}
          </div>
          {(make.isError || rotate.isError) && (
            <p className="text-[12px] text-bad">{(make.error ?? rotate.error)?.message}</p>
          )}
          {secret && (
            <div className="rounded border border-accent p-2">
              <p className="mb-1 text-[12px] font-medium">
                Copy the secret now; it is never shown again.
                {rotate.data && " The old one is accepted until this time tomorrow."}
              </p>
              <Code label="Secret" text={secret} />
              {Object.entries(rotate.data?.shown ?? make.data?.shown ?? {}).map(([name, value]) => (
                <p key={name} className="mt-1 text-[12px]">
                  {name}: <code className="font-mono">{value}</code>
                </p>
              ))}
            </div>
          )}
        </div>
      )}
    </Labelled>
  );
}

/** The forms of credential that inlets or outlets of a kind can do with, the usual one first. */
function useForms(kind: string, of: "inlet" | "outlet") {
  const forms = useQuery({
    queryKey: ["credential-forms"],
    queryFn: api.credentialForms,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const kinds = useQuery({ queryKey: ["kinds"], queryFn: api.kinds, staleTime: Number.POSITIVE_INFINITY });
  const fit = kinds.data?.find((one) => one.name === kind)?.[`${of}Credentials`] ?? [];
  return fit.flatMap((name) => forms.data?.find((one) => one.form === name) ?? []);
}

/** What an outlet presents: a credential there is, or one entered here, which is never shown again. */
export function OutletCredential({
  label,
  value,
  error,
  onChange,
  name,
  kind,
  found,
}: Props & Part & { found?: Proposal["credential"] }) {
  const client = useQueryClient();
  const forms = useForms(kind, "outlet");
  const all = useQuery({ queryKey: ["credentials"], queryFn: api.credentials });
  const [open, setOpen] = useState(Boolean(found));
  const [chosen, setForm] = useState(found?.form ?? "");
  const form = chosen || forms[0]?.form || "";
  const [fields, setFields] = useState<Record<string, string>>(found?.fields ?? {});
  const schema = forms.find((one) => one.form === form)?.schema;
  const wanted = schema?.required ?? [];
  const target = value ? String(value) : name;
  const save = useMutation({
    mutationFn: () =>
      api.saveCredential(target, {
        form,
        ...Object.fromEntries(wanted.map((field) => [field, fields[field] ?? ""])),
      }),
    onSuccess: async (saved) => {
      onChange(saved.name);
      setOpen(false);
      setFields({});
      await client.invalidateQueries({ queryKey: ["credentials"] });
    },
  });
  return (
    <Labelled label={label} error={open ? undefined : error}>
      {() => (
        <div className="space-y-2">
          <div className="flex flex-wrap items-center gap-2">
            <Choice
              label="credential"
              value={String(value ?? "")}
              options={(all.data ?? []).map((one) => one.name)}
              onChange={(next) => onChange(next || undefined)}
            />
            {!open && (
              <Button onClick={() => setOpen(true)}>{value ? "Replace it" : "Enter a new one"}</Button>
            )}
          </div>
          {save.data?.notices.map((notice) => (
            <p key={notice} className="rounded bg-wait-wash px-2 py-1 text-[12px] text-wait">
              {notice}
            </p>
          ))}
          {open && (
            <div className="space-y-2 rounded border border-rule p-2">
              <Choice
                label="form"
                value={form}
                options={forms.map((one) => one.form)}
                onChange={(next) => setForm(next || "")}
              />
              {wanted.map((field) => (
                <Field
                  key={field}
                  label={schema?.properties[field]?.title ?? field}
                  type={schema?.properties[field]?.writeOnly ? "password" : "text"}
                  autoComplete="off"
                  value={fields[field] ?? ""}
                  onChange={(event) => setFields({ ...fields, [field]: event.target.value })}
                />
              ))}
              {save.isError && <p className="text-[12px] text-bad">{save.error.message}</p>}
              <div className="flex gap-2">
                <Button
                  look="main"
                  disabled={target === "" || save.isPending || wanted.some((field) => !fields[field])}
                  onClick={() => save.mutate()}
                >
                  Save as {target || "…"}
                </Button>
                <Button onClick={() => setOpen(false)}>Cancel</Button>
              </div>
              <p className="text-[12px] text-ink-faint">Stored encrypted; never shown again.</p>
            </div>
          )}
        </div>
      )}
    </Labelled>
  );
}
