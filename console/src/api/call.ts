/** How the service is called. */

/** A call that did not succeed, as problem details (RFC 9457) tell it. */
export class Problem extends Error {
  readonly status: number;
  readonly title: string;
  /** Further members of the problem: the field at fault, the problems of a setup, what waits. */
  readonly more: Record<string, unknown>;

  constructor(status: number, title: string, detail: string, more: Record<string, unknown> = {}) {
    super(detail);
    this.status = status;
    this.title = title;
    this.more = more;
  }
}

export async function call<T>(method: string, path: string, body?: unknown, type?: string): Promise<T> {
  const headers: Record<string, string> = { Accept: "application/json" };
  if (body !== undefined) headers["Content-Type"] = type ?? "application/json";
  const token = document.cookie.match(/(?:^|; )XSRF-TOKEN=([^;]*)/)?.[1];
  if (method !== "GET" && token) headers["X-XSRF-TOKEN"] = decodeURIComponent(token);
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      headers,
      body: body === undefined ? undefined : type ? String(body) : JSON.stringify(body),
    });
  } catch {
    throw new Problem(0, "Not reached", "The service does not answer. Does it still run?");
  }
  if (!response.ok) {
    const problem = await response.json().catch(() => ({}));
    throw new Problem(
      response.status,
      problem.title ?? "Refused",
      problem.detail ?? `The service answered ${response.status}.`,
      problem,
    );
  }
  return response.status === 204 ? (undefined as T) : response.json();
}

/** A path with its query; what is empty is left out. */
export function withQuery(
  path: string,
  parameters: Record<string, string | number | null | undefined>,
): string {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(parameters)) {
    if (value !== null && value !== undefined && value !== "") query.set(name, String(value));
  }
  const text = query.toString();
  return text === "" ? path : `${path}?${text}`;
}
