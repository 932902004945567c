import { Select } from "radix-ui";

const ANY = "*";

/** A choice from a list, with a way back to any. */
export function Choice({
  id,
  label,
  value,
  options,
  onChange,
}: {
  id?: string;
  label: string;
  value: string;
  options: string[];
  onChange: (value: string) => void;
}) {
  return (
    <Select.Root
      value={value === "" ? ANY : value}
      onValueChange={(next) => onChange(next === ANY ? "" : next)}
    >
      <Select.Trigger
        id={id}
        aria-label={id ? undefined : label}
        className={`inline-flex h-8 items-center gap-1.5 rounded border bg-sheet px-2.5 text-[13px] hover:border-rule-strong ${value === "" ? "border-rule text-ink-soft" : "border-accent font-medium text-accent"}`}
      >
        <span className={value === "" ? "" : "sr-only"}>{label}</span>
        {value !== "" && <span>{value}</span>}
        <span className="sr-only">
          <Select.Value />
        </span>
        <svg viewBox="0 0 12 12" className="size-3" aria-hidden="true">
          <path d="M3 4.5 6 7.5 9 4.5" fill="none" stroke="currentColor" strokeWidth="1.6" />
        </svg>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={4}
          className="z-20 max-h-80 min-w-40 overflow-auto rounded-md border border-rule-strong bg-sheet p-1 shadow-lg"
        >
          <Select.Viewport>
            {[ANY, ...options].map((option) => (
              <Select.Item
                key={option}
                value={option}
                className="rounded-sm px-2.5 py-1 text-[13px] outline-none data-highlighted:bg-accent-wash data-[state=checked]:font-semibold"
              >
                <Select.ItemText>{option === ANY ? `any ${label}` : option}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
