import { diffLines } from "diff";

/** Two texts held against each other, line by line. */
export function Difference({ was, now, label }: { was: string; now: string; label: string }) {
  const parts = diffLines(was.endsWith("\n") ? was : `${was}\n`, now.endsWith("\n") ? now : `${now}\n`);
  if (parts.every((part) => !part.added && !part.removed))
    return <p className="text-ink-soft">There is no difference.</p>;
  let key = 0;
  return (
    <section
      aria-label={label}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard (WCAG 2.1.1)
      tabIndex={0}
      className="max-h-[55vh] overflow-auto rounded bg-inset py-2 font-mono text-[12px] leading-[1.55]"
    >
      {parts.map((part) => {
        const lines = part.value.replace(/\n$/, "").split("\n");
        const shown =
          part.added || part.removed || lines.length <= 7
            ? lines
            : [...lines.slice(0, 3), `   … ${lines.length - 6} lines the same`, ...lines.slice(-3)];
        return shown.map((line) => {
          key += 1;
          const look = part.added ? "bg-good-wash text-good" : part.removed ? "bg-bad-wash text-bad" : "";
          return (
            <div key={key} className={`px-3 whitespace-pre-wrap ${look}`}>
              <span aria-hidden="true" className="mr-2 select-none">
                {part.added ? "+" : part.removed ? "−" : " "}
              </span>
              <span className="sr-only">{part.added ? "added: " : part.removed ? "removed: " : ""}</span>
              {line}
            </div>
          );
        });
      })}
    </section>
  );
}
