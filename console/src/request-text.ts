/** Names and values, a line each. */
const fieldLines = (fields: Record<string, string>) =>
  Object.entries(fields)
    .map(([name, value]) => `${name}: ${value}`)
    .join("\n");

/** A request as people read it: what is asked of whom, what goes beside the content, and the content. */
export const requestText = (summary: string, fields: Record<string, string>, body: string) =>
  [summary, fieldLines(fields), "", body].filter((part, at) => at !== 1 || part !== "").join("\n");
