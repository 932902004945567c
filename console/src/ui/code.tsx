import { useState } from "react";

/** Text in the mono face, to be read and copied. */
export function Code({ text, label }: { text: string; label: string }) {
  const [copied, setCopied] = useState(false);
  const copy = async () => {
    await navigator.clipboard.writeText(text);
    setCopied(true);
    setTimeout(() => setCopied(false), 1500);
  };
  return (
    <div className="group relative">
      <section
        aria-label={label}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard (WCAG 2.1.1)
        tabIndex={0}
        className="max-h-96 overflow-auto rounded bg-inset px-3 py-2"
      >
        <pre className="font-mono text-[12px] leading-[1.55] break-words whitespace-pre-wrap">{text}</pre>
      </section>
      <button
        type="button"
        onClick={copy}
        className="absolute top-1.5 right-1.5 rounded border border-rule bg-sheet px-1.5 text-[11px] text-ink-soft opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
      >
        {copied ? "copied" : "copy"}
      </button>
    </div>
  );
}
