/** A state, told by a shape and a word as well as by a colour. */

type Tone = "good" | "wait" | "bad" | "calm";

const tones: Record<Tone, string> = {
  good: "text-good bg-good-wash",
  wait: "text-wait bg-wait-wash",
  bad: "text-bad bg-bad-wash",
  calm: "text-ink-soft bg-inset",
};

const shapes: Record<Tone, string> = {
  good: "M2 6.5 5 9.5 10 3",
  wait: "M6 1.5a4.5 4.5 0 1 0 .01 0M6 3.6V6l1.7 1.2",
  bad: "M3 3l6 6M9 3l-6 6",
  calm: "M3 6h6",
};

const toneOf: Record<string, Tone> = {
  delivered: "good",
  known: "good",
  introducing: "wait",
  removing: "wait",
  flowing: "good",
  connected: "good",
  passed: "good",
  failed: "bad",
  uncertain: "wait",
  connecting: "wait",
  "waiting to try again": "wait",
  "on another node": "calm",
  waiting: "wait",
  late: "wait",
  paused: "wait",
  "try later": "wait",
  "device held": "wait",
  dead: "bad",
  stopped: "bad",
  broken: "bad",
  blocked: "bad",
  "outlet blocked": "bad",
  refused: "bad",
  unreadable: "bad",
  dropped: "calm",
  remembered: "wait",
  "held back": "calm",
  merged: "calm",
  split: "calm",
  made: "good",
  unrouted: "calm",
  quiet: "calm",
  duplicate: "calm",
  whole: "calm",
  unclaimed: "wait",
  deferred: "wait",
  live: "good",
  silent: "wait",
  unheard: "calm",
  barred: "bad",
  closed: "calm",
  open: "good",
  picked: "good",
  "not picked": "calm",
  trial: "calm",
  gained: "good",
  lost: "wait",
  changed: "wait",
  failing: "bad",
};

export function Mark({ state, label, title }: { state: string; label?: string; title?: string }) {
  const tone = toneOf[state] ?? "calm";
  return (
    <span
      title={title}
      className={`inline-flex items-center gap-1 rounded-sm px-1.5 py-px text-[12px] leading-[18px] font-medium whitespace-nowrap ${tones[tone]}`}
    >
      <svg viewBox="0 0 12 12" className="size-3 shrink-0" aria-hidden="true">
        <path d={shapes[tone]} fill="none" stroke="currentColor" strokeWidth="1.7" strokeLinecap="round" />
      </svg>
      {label ?? state}
    </span>
  );
}

/** The mark of a simulated device's messages. */
export function Simulated() {
  return (
    <span
      title="From a simulated device"
      className="rounded-sm border border-dashed border-rule-strong px-1 text-[11px] leading-[16px] text-ink-soft"
    >
      simulated
    </span>
  );
}
