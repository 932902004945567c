import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type CredentialForm, type Proposal } from "../api";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { Code } from "../ui/code";
import { Field, Labelled, TextField } from "../ui/field";

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
  const entered = forms.filter((one) => !one.canBeMade);
  const [entering, setEntering] = useState(false);
  const [notices, setNotices] = useState<string[]>([]);
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
                {entered.length > 0 && !entering && (
                  <Button onClick={() => setEntering(true)}>Check by certificate</Button>
                )}
              </>
            )}
          </div>
          <Notices all={notices} />
          {entering && (
            <CredentialEntry
              forms={entered}
              target={String(value || name)}
              onSaved={(saved) => {
                onChange(saved.name);
                setNotices(saved.notices);
                setEntering(false);
              }}
              onCancel={() => setEntering(false)}
            />
          )}
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

/** The forms of credential that inlets, outlets or shared connections of a kind can do with, the usual one first. */
function useForms(kind: string, of: "inlet" | "outlet" | "connection") {
  const forms = useQuery({
    queryKey: ["credential-forms"],
    queryFn: api.credentialForms,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const kinds = useQuery({ queryKey: ["kinds"], queryFn: api.kinds, staleTime: Number.POSITIVE_INFINITY });
  const fit = kinds.data?.find((one) => one.name === kind)?.[`${of}Credentials`] ?? [];
  return fit.flatMap((name) => forms.data?.find((one) => one.form === name) ?? []);
}

/** What an outlet or a shared connection presents: a credential there is, or one entered here, which is never shown again. */
export function OutletCredential({
  label,
  value,
  error,
  onChange,
  name,
  kind,
  of = "outlet",
  found,
}: Props & Part & { of?: "outlet" | "connection"; found?: Proposal["credential"] }) {
  const forms = useForms(kind, of);
  const all = useQuery({ queryKey: ["credentials"], queryFn: api.credentials });
  const [open, setOpen] = useState(Boolean(found));
  const [notices, setNotices] = useState<string[]>([]);
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
          <Notices all={notices} />
          {open && (
            <CredentialEntry
              forms={forms}
              target={value ? String(value) : name}
              found={found}
              onSaved={(saved) => {
                onChange(saved.name);
                setNotices(saved.notices);
                setOpen(false);
              }}
              onCancel={() => setOpen(false)}
            />
          )}
        </div>
      )}
    </Labelled>
  );
}

function Notices({ all }: { all: string[] }) {
  return all.map((notice) => (
    <p key={notice} className="rounded bg-wait-wash px-2 py-1 text-[12px] text-wait">
      {notice}
    </p>
  ));
}

/** The fields of a credential, in one of several forms. What was saved is never shown again. */
function CredentialEntry({
  forms,
  target,
  found,
  onSaved,
  onCancel,
}: {
  forms: CredentialForm[];
  /** The name it is saved under. */
  target: string;
  found?: Proposal["credential"];
  onSaved: (saved: { name: string; notices: string[] }) => void;
  onCancel: () => void;
}) {
  const client = useQueryClient();
  const [chosen, setForm] = useState(found?.form ?? "");
  const form = chosen || forms[0]?.form || "";
  const [fields, setFields] = useState<Record<string, string>>(found?.fields ?? {});
  const schema = forms.find((one) => one.form === form)?.schema;
  const asked = Object.entries(schema?.properties ?? {});
  const save = useMutation({
    mutationFn: () =>
      api.saveCredential(target, {
        form,
        ...Object.fromEntries(asked.map(([field]) => [field, fields[field] ?? ""])),
      }),
    onSuccess: async (saved) => {
      setFields({});
      await client.invalidateQueries({ queryKey: ["credentials"] });
      onSaved(saved);
    },
  });
  return (
    <div className="space-y-2 rounded border border-rule p-2">
      <Choice
        label="form"
        value={form}
        options={forms.map((one) => one.form)}
        onChange={(next) => setForm(next || "")}
      />
      {asked.map(([field, about]) =>
        about.contentMediaType ? (
          <TextField
            key={field}
            label={about.title}
            rows={5}
            value={fields[field] ?? ""}
            onChange={(event) => setFields({ ...fields, [field]: event.target.value })}
          />
        ) : (
          <Field
            key={field}
            label={about.title}
            type={about.writeOnly ? "password" : "text"}
            autoComplete="off"
            value={fields[field] ?? ""}
            onChange={(event) => setFields({ ...fields, [field]: event.target.value })}
          />
        ),
      )}
      {save.isError && (
        <p role="alert" className="text-[12px] text-bad">
          {save.error.message}
        </p>
      )}
      <div className="flex gap-2">
        <Button
          look="main"
          disabled={target === "" || save.isPending || schema?.required.some((field) => !fields[field])}
          onClick={() => save.mutate()}
        >
          Save as {target || "…"}
        </Button>
        <Button onClick={onCancel}>Cancel</Button>
      </div>
      <p className="text-[12px] text-ink-faint">
        Save it before you apply. It is stored encrypted and never shown again.
      </p>
    </div>
  );
}
