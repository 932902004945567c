import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { type ApiKey, api, type CredentialEntry } from "../api";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { Code } from "../ui/code";
import { Confirm } from "../ui/confirm";
import { Sheet } from "../ui/dialog";
import { Field, Labelled } from "../ui/field";
import { Mark } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Time } from "../ui/time";

/** Who may send, what outlets present, and the keys of programs. */
export function AccessPage() {
  return (
    <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,7fr)_minmax(0,5fr)]">
      <Credentials />
      <Keys />
    </div>
  );
}

function Credentials() {
  const client = useQueryClient();
  const all = useQuery({ queryKey: ["credentials"], queryFn: api.credentials, refetchInterval: 5000 });
  const refresh = () => client.invalidateQueries({ queryKey: ["credentials"] });
  const remove = useMutation({ mutationFn: api.removeCredential, onSuccess: refresh });
  const [saving, setSaving] = useState("");
  if (all.isError && !all.data) return <Failure error={all.error} />;
  if (!all.data) return <Loading />;
  return (
    <Panel title="Credentials" aside="stored encrypted, never shown again">
      {all.data.length === 0 && (
        <Empty title="No credentials yet">
          Inlets check their senders by a credential, and outlets present one. Save one below, or on the page
          of an <Link href="/inlets">inlet</Link> or <Link href="/outlets">outlet</Link>.
        </Empty>
      )}
      {all.data.length > 0 && (
        <table className="w-full">
          <thead>
            <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
              <th>Name</th>
              <th>Form</th>
              <th>Changed</th>
              <th>Good</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {all.data.map((one) => (
              <Entry
                key={one.name}
                one={one}
                onReplace={() => setSaving(one.name)}
                onRemove={() => remove.mutate(one.name)}
              />
            ))}
          </tbody>
        </table>
      )}
      {remove.isError && (
        <p role="alert" className="px-4 py-2 text-[13px] text-bad">
          {remove.error.message}
        </p>
      )}
      <Save key={saving} start={all.data.find((one) => one.name === saving)} onSaved={refresh} />
    </Panel>
  );
}

/** Whether it is good for something now, where that changes by itself. */
function Good({ one }: { one: CredentialEntry }) {
  if (one.token?.failure)
    return (
      <span className="text-[13px]">
        <Mark state={one.token.failure === "later" ? "waiting" : "refused"} label={one.token.failure} />{" "}
        <span className="text-ink-soft">{one.token.reason}</span>
      </span>
    );
  const until = one.token?.expires ?? one.expires;
  if (until)
    return (
      <span className="text-[13px] whitespace-nowrap text-ink-soft">
        {one.token ? "token until " : "ends "}
        <Time instant={until} />
      </span>
    );
  return one.form === "grant" && !one.token ? <Mark state="waiting" label="not consented" /> : null;
}

/** A link to be sent to the owner, who consents by it. */
function GrantLink({ name }: { name: string }) {
  const link = useMutation({ mutationFn: () => api.grantLink(name) });
  return (
    <>
      <Button disabled={link.isPending} onClick={() => link.mutate()}>
        Make link
      </Button>
      <Sheet open={link.isSuccess || link.isError} onClose={() => link.reset()} title={`Link for ${name}`}>
        {link.isError ? (
          <p className="text-bad">{link.error.message}</p>
        ) : (
          link.data && (
            <>
              <p>
                Send this to the owner. It says what is asked for, leads to the destination, where they agree,
                and back here. It serves once, until <Time instant={link.data.until} />, and is not shown
                again.
              </p>
              <p className="mt-2 flex items-center gap-2">
                <input
                  readOnly
                  aria-label="Link"
                  className="h-8 w-full rounded border border-rule bg-inset px-2 font-mono text-[12px]"
                  value={link.data.address}
                  onFocus={(event) => event.target.select()}
                />
                <Button onClick={() => navigator.clipboard.writeText(link.data.address)}>Copy</Button>
              </p>
            </>
          )
        )}
      </Sheet>
    </>
  );
}

function Entry({
  one,
  onReplace,
  onRemove,
}: {
  one: CredentialEntry;
  onReplace: () => void;
  onRemove: () => void;
}) {
  return (
    <tr className="border-b border-rule whitespace-nowrap [&>td]:px-4 [&>td]:py-1.5">
      <td className="font-semibold">{one.name}</td>
      <td>{one.form}</td>
      <td className="text-ink-soft">
        <Time instant={one.changed} />
        <span className="block text-[12px] text-ink-faint">by {one.changedBy}</span>
      </td>
      <td className="max-w-80 whitespace-normal">
        <Good one={one} />
      </td>
      <td>
        <span className="flex justify-end gap-1">
          {one.form === "grant" && <GrantLink name={one.name} />}
          <Button onClick={onReplace}>Replace</Button>
          <Confirm
            trigger={<Button look="danger">Remove</Button>}
            title={`Remove credential ${one.name}?`}
            action="Remove"
            onConfirm={onRemove}
          >
            Its secret is deleted. Holtra refuses to remove a credential that an inlet or outlet uses.
          </Confirm>
        </span>
      </td>
    </tr>
  );
}

function Save({ start, onSaved }: { start: CredentialEntry | undefined; onSaved: () => void }) {
  const forms = useQuery({
    queryKey: ["credential-forms"],
    queryFn: api.credentialForms,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [name, setName] = useState(start?.name ?? "");
  const [chosen, setChosen] = useState(start?.form ?? "");
  const [fields, setFields] = useState<Record<string, string>>({});
  const form = (forms.data ?? []).find((one) => one.form === chosen) ?? forms.data?.[0];
  const wanted = form?.schema.required ?? [];
  const save = useMutation({
    mutationFn: () =>
      api.saveCredential(name, {
        form: form?.form ?? "",
        ...Object.fromEntries(wanted.map((field) => [field, fields[field] ?? ""])),
      }),
    onSuccess: () => {
      setFields({});
      onSaved();
    },
  });
  return (
    <form
      className="space-y-3 px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <h3 className="text-[13px] font-semibold">
        {start ? `Replace the secret of ${start.name}` : "Save a credential"}
      </h3>
      <div className="grid gap-3 sm:grid-cols-2">
        <Field
          label="Name of the credential"
          placeholder="works-desk"
          disabled={start !== undefined}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Labelled label="Form" hint={form?.about}>
          {() => (
            <Choice
              label="form"
              value={form?.form ?? ""}
              options={(forms.data ?? []).map((one) => one.form)}
              onChange={(next) => setChosen(next || "")}
            />
          )}
        </Labelled>
        {wanted.map((field) => (
          <Field
            key={field}
            label={form?.schema.properties[field]?.title ?? field}
            type={form?.schema.properties[field]?.writeOnly ? "password" : "text"}
            autoComplete="off"
            value={fields[field] ?? ""}
            onChange={(event) => setFields({ ...fields, [field]: event.target.value })}
          />
        ))}
      </div>
      {save.data?.notices.map((notice) => (
        <p key={notice} className="rounded bg-wait-wash px-2 py-1 text-[12px] text-wait">
          {notice}
        </p>
      ))}
      {save.isSuccess && <p className="text-[13px] text-good">Saved.</p>}
      {save.isError && (
        <p role="alert" className="text-[13px] text-bad">
          {save.error.message}
        </p>
      )}
      <Button
        type="submit"
        look="main"
        disabled={name === "" || save.isPending || wanted.some((field) => !fields[field])}
      >
        Save credential
      </Button>
    </form>
  );
}

function Keys() {
  const client = useQueryClient();
  const all = useQuery({ queryKey: ["keys"], queryFn: api.keys, refetchInterval: 5000 });
  const [name, setName] = useState("");
  const refresh = () => client.invalidateQueries({ queryKey: ["keys"] });
  const make = useMutation({
    mutationFn: () => api.makeKey(name),
    onSuccess: async () => {
      setName("");
      await refresh();
    },
  });
  const remove = useMutation({ mutationFn: api.removeKey, onSuccess: refresh });
  if (all.isError && !all.data) return <Failure error={all.error} />;
  if (!all.data) return <Loading />;
  return (
    <Panel title="API keys" aside="for programs and the command line">
      {all.data.length === 0 && <Empty title="No API keys yet">A program needs one to call the API.</Empty>}
      {all.data.length > 0 && (
        <table className="w-full">
          <thead>
            <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
              <th>Name</th>
              <th>Created</th>
              <th>By</th>
              <th>Last used</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {all.data.map((one) => (
              <Key key={one.name} one={one} onRemove={() => remove.mutate(one.name)} />
            ))}
          </tbody>
        </table>
      )}
      <form
        className="space-y-3 px-4 py-3"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate();
        }}
      >
        <div className="flex items-end gap-2">
          <div className="grow">
            <Field
              label="Name of the new key"
              placeholder="the program that will use it"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          </div>
          <Button type="submit" look="main" disabled={name.trim() === "" || make.isPending}>
            Create key
          </Button>
        </div>
        {make.data && (
          <div className="rounded border border-accent p-2">
            <p className="mb-1 text-[12px] font-medium">Copy the key now; it is never shown again.</p>
            <Code label="API key" text={make.data.key} />
          </div>
        )}
        {(make.error ?? remove.error) && (
          <p role="alert" className="text-[13px] text-bad">
            {(make.error ?? remove.error)?.message}
          </p>
        )}
      </form>
    </Panel>
  );
}

function Key({ one, onRemove }: { one: ApiKey; onRemove: () => void }) {
  return (
    <tr className="border-b border-rule whitespace-nowrap [&>td]:px-4 [&>td]:py-1.5">
      <td className="font-semibold">{one.name}</td>
      <td className="text-ink-soft">
        <Time instant={one.created} />
      </td>
      <td className="text-ink-soft">{one.createdBy}</td>
      <td className="text-ink-soft">{one.lastUsed ? <Time instant={one.lastUsed} /> : "never"}</td>
      <td className="text-right">
        <Confirm
          trigger={<Button look="danger">Remove</Button>}
          title={`Remove API key ${one.name}?`}
          action="Remove"
          onConfirm={onRemove}
        >
          Programs that use it are refused at once.
        </Confirm>
      </td>
    </tr>
  );
}
