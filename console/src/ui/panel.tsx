import type { ReactNode } from "react";

export function Panel({
  title,
  aside,
  children,
  label,
}: {
  title?: ReactNode;
  aside?: ReactNode;
  children: ReactNode;
  label?: string;
}) {
  return (
    <section aria-label={label} className="min-w-0 rounded-md border border-rule bg-sheet">
      {title && (
        <header className="flex min-h-10 flex-wrap items-center gap-3 border-b border-rule px-4 py-1.5">
          <h2 className="text-[14px] font-semibold">{title}</h2>
          <div className="ml-auto flex flex-wrap items-center gap-2 text-[13px] text-ink-soft">{aside}</div>
        </header>
      )}
      <div className="overflow-x-auto">{children}</div>
    </section>
  );
}

/** What to say, and to do next, where there is nothing to show. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="px-6 py-12 text-center">
      <p className="text-[15px] font-medium">{title}</p>
      <div className="mx-auto mt-1 max-w-xl text-ink-soft">{children}</div>
    </div>
  );
}

/** Stands where something will be that is still asked for. Appears only if that takes a moment. */
export function Loading({ what = "Loading" }: { what?: string }) {
  return (
    <p role="status" className="loading px-4 py-3 text-ink-soft">
      {what}…
    </p>
  );
}

export function Failure({ error }: { error: Error }) {
  return (
    <div role="alert" className="m-4 rounded border border-bad bg-bad-wash px-4 py-3 text-bad">
      {error.message}
    </div>
  );
}
