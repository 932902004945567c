import { Link, useLocation } from "wouter";
import { pageOf, sectionOf } from "../sections";

/** The pages of the entry of the navigation that is open, if it has several. */
export function SectionPages() {
  const [location] = useLocation();
  const section = sectionOf(location);
  const here = pageOf(location);
  if (!section || section.pages.length < 2) return null;
  return (
    <nav aria-label={`Pages of ${section.title}`} className="mb-4 flex gap-1">
      {section.pages.map((page) => (
        <Link
          key={page.href}
          href={page.href}
          aria-current={page === here ? "page" : undefined}
          className={`rounded px-3 py-1 text-[14px] ${page === here ? "bg-sheet font-semibold shadow-sm" : "text-ink-soft hover:text-ink"}`}
        >
          {page.title}
        </Link>
      ))}
    </nav>
  );
}
