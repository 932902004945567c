import type { ButtonHTMLAttributes } from "react";

const looks = {
  plain: "border-rule bg-sheet text-ink hover:border-rule-strong",
  main: "border-accent bg-accent text-on-accent hover:brightness-110",
  quiet: "h-7! border-transparent px-2! text-accent hover:bg-accent-wash",
  danger: "border-bad bg-sheet text-bad hover:bg-bad-wash",
};

type Props = ButtonHTMLAttributes<HTMLButtonElement> & { look?: keyof typeof looks };

export function Button({ look = "plain", className = "", type = "button", ...rest }: Props) {
  return (
    <button
      type={type}
      className={`inline-flex h-8 items-center gap-1.5 rounded border px-3 text-[13px] font-medium whitespace-nowrap disabled:opacity-50 ${looks[look]} ${className}`}
      {...rest}
    />
  );
}
