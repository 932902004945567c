import type { InputHTMLAttributes, ReactNode, TextareaHTMLAttributes } from "react";
import { useId } from "react";

const look =
  "h-8 w-full rounded border bg-sheet px-2.5 text-[13px] placeholder:text-ink-faint disabled:bg-inset disabled:text-ink-faint";

/** A label, what it labels, and beside it what is wrong with it. */
export function Labelled({
  label,
  hint,
  error,
  children,
}: {
  label: string;
  hint?: ReactNode;
  error?: string;
  children: (id: string, described: string | undefined) => ReactNode;
}) {
  const id = useId();
  const told = error || hint ? `${id}-told` : undefined;
  return (
    <div>
      <label htmlFor={id} className="mb-0.5 block text-[13px] font-medium">
        {label}
      </label>
      {children(id, told)}
      <Told id={told} error={error} hint={hint} />
    </div>
  );
}

/** What is wrong with a field, or else what is to be said of it. */
export function Told({ id, error, hint }: { id: string | undefined; error?: string; hint?: ReactNode }) {
  if (error)
    return (
      <p id={id} role="alert" className="mt-0.5 text-[12px] whitespace-pre-wrap text-bad">
        {error}
      </p>
    );
  if (!hint) return null;
  return (
    <p id={id} className="mt-0.5 text-[12px] text-ink-faint">
      {hint}
    </p>
  );
}

type Props = InputHTMLAttributes<HTMLInputElement> & {
  label: string;
  hint?: ReactNode;
  error?: string;
  mono?: boolean;
};

export function Field({ label, hint, error, mono, className = "", ...rest }: Props) {
  return (
    <Labelled label={label} hint={hint} error={error}>
      {(id, described) => (
        <input
          id={id}
          aria-describedby={described}
          aria-invalid={error ? true : undefined}
          spellCheck={false}
          className={`${look} ${error ? "border-bad" : "border-rule"} ${mono ? "font-mono text-[12px]" : ""} ${className}`}
          {...rest}
        />
      )}
    </Labelled>
  );
}

/** Text of several lines. */
export function TextField({
  label,
  hint,
  error,
  className = "",
  ...rest
}: TextareaHTMLAttributes<HTMLTextAreaElement> & { label: string; hint?: ReactNode; error?: string }) {
  return (
    <Labelled label={label} hint={hint} error={error}>
      {(id, described) => (
        <textarea
          id={id}
          aria-describedby={described}
          aria-invalid={error ? true : undefined}
          spellCheck={false}
          className={`w-full rounded border bg-sheet px-2.5 py-1 font-mono text-[12px] ${error ? "border-bad" : "border-rule"} ${className}`}
          {...rest}
        />
      )}
    </Labelled>
  );
}

/** A choice of one among a few, as a row of buttons. */
export function Segments<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}) {
  return (
    <fieldset className="inline-flex rounded border border-rule bg-inset p-0.5" aria-label={label}>
      {options.map(([option, words]) => (
        <button
          key={option}
          type="button"
          aria-pressed={option === value}
          onClick={() => onChange(option)}
          className={`h-6.5 rounded-sm px-2.5 text-[12.5px] ${option === value ? "bg-sheet font-semibold text-ink shadow-sm" : "text-ink-soft hover:text-ink"}`}
        >
          {words}
        </button>
      ))}
    </fieldset>
  );
}
