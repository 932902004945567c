import { useQuery } from "@tanstack/react-query";
import { Link } from "wouter";
import { api } from "../api";
import type { Widget } from "../forms/theme";
import { Choice } from "../ui/choice";
import { Labelled } from "../ui/field";
import { Mark } from "../ui/mark";

/** The shared connection that an inlet or outlet uses, with how it stands. */
export function ConnectionField({
  label,
  value,
  error,
  onChange,
  kind,
}: Parameters<Widget>[0] & {
  /** Of the inlet or outlet. */
  kind: string;
}) {
  const kinds = useQuery({ queryKey: ["kinds"], queryFn: api.kinds, staleTime: Number.POSITIVE_INFINITY });
  const all = useQuery({ queryKey: ["connections"], queryFn: api.connections, refetchInterval: 5000 });
  const shares = kinds.data?.find((one) => one.name === kind)?.shares;
  const fit = (all.data ?? []).filter((one) => one.kind === shares);
  const there = fit.find((one) => one.name === value);
  return (
    <Labelled label={label} error={error}>
      {() => (
        <div className="flex flex-wrap items-center gap-2 text-[13px]">
          <Choice
            label="connection"
            value={String(value ?? "")}
            options={fit.map((one) => one.name)}
            onChange={(next) => onChange(next || undefined)}
          />
          {there && <span className="font-mono text-[12px] text-ink-soft">{there.address}</span>}
          {there?.status && <Mark state={there.status.state} />}
          <Link href="/connections/new" className="text-accent underline underline-offset-2">
            New connection
          </Link>
        </div>
      )}
    </Labelled>
  );
}
