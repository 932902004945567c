import { Link } from "wouter";

const pages = [
  ["alarms", "Alarms"],
  ["lookouts", "Lookouts"],
] as const;

/** From alarms to what raises them, and back. */
export function WatchPages({ here }: { here: (typeof pages)[number][0] }) {
  return (
    <nav aria-label="Alarms and lookouts" className="flex gap-1">
      {pages.map(([page, words]) => (
        <Link
          key={page}
          href={`/${page}`}
          aria-current={page === here ? "page" : undefined}
          className={`rounded px-3 py-1 text-[14px] ${page === here ? "bg-sheet font-semibold shadow-sm" : "text-ink-soft hover:text-ink"}`}
        >
          {words}
        </Link>
      ))}
    </nav>
  );
}
