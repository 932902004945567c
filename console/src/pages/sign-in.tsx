import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useId, useState } from "react";
import { api } from "../api";
import { Button } from "../ui/button";

export function SignInPage() {
  const client = useQueryClient();
  const [name, setName] = useState("admin");
  const [password, setPassword] = useState("");
  const signIn = useMutation({
    mutationFn: () => api.signIn(name, password),
    onSuccess: (session) => client.setQueryData(["session"], session),
  });
  const ids = useId();
  const submit = (event: FormEvent) => {
    event.preventDefault();
    signIn.mutate();
  };
  const field =
    "mt-1 h-9 w-full rounded border border-rule-strong bg-sheet px-2.5 text-[14px] aria-invalid:border-bad";
  return (
    <main className="mx-auto flex min-h-screen max-w-sm flex-col justify-center px-5 pb-24">
      <div className="flex items-center gap-3">
        <img src="/mark.svg" alt="" className="size-9" />
        <h1 className="text-[22px] font-semibold tracking-tight">Holtra</h1>
      </div>
      <p className="mt-2 text-ink-soft">What devices say, carried to where it is wanted.</p>
      <form onSubmit={submit} className="mt-6 rounded-md border border-rule bg-sheet p-5">
        <label htmlFor={`${ids}-name`} className="block text-[13px] font-medium">
          Name
          <input
            id={`${ids}-name`}
            autoComplete="username"
            required
            value={name}
            onChange={(event) => setName(event.target.value)}
            className={field}
          />
        </label>
        <label htmlFor={`${ids}-password`} className="mt-4 block text-[13px] font-medium">
          Password
          <input
            id={`${ids}-password`}
            type="password"
            autoComplete="current-password"
            required
            // biome-ignore lint/a11y/noAutofocus: the one thing this page is for
            autoFocus
            value={password}
            aria-invalid={signIn.isError}
            aria-describedby={`${ids}-problem`}
            onChange={(event) => setPassword(event.target.value)}
            className={field}
          />
        </label>
        <p id={`${ids}-problem`} role="alert" className="mt-1.5 min-h-5 text-[13px] text-bad">
          {signIn.error?.message}
        </p>
        <Button type="submit" look="main" className="mt-2 w-full justify-center" disabled={signIn.isPending}>
          Sign in
        </Button>
      </form>
      <p className="mt-4 text-[13px] text-ink-faint">
        The first start made this sign-in and told its password once. The demo keeps it in{" "}
        <code className="font-mono">.holtra/demo.json</code>.
      </p>
    </main>
  );
}
