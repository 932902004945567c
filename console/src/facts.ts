/** A fact as it was typed: numbers, true and false keep their type; what has leading zeros is text. */
export function factValue(text: string): string | number | boolean {
  const typed = text.trim();
  if (typed === "true" || typed === "false") return typed === "true";
  return /^-?(0|[1-9]\d{0,14})(\.\d{1,10})?$/.test(typed) ? Number(typed) : typed;
}
