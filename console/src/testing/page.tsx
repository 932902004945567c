import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render } from "@testing-library/react";
import { Tooltip } from "radix-ui";
import type { ReactNode } from "react";
import { vi } from "vitest";
import { Router } from "wouter";
import { memoryLocation } from "wouter/memory-location";

/** What a page asked of the service. */
export type Call = { method: string; path: string; query: Record<string, string>; body: unknown };

/** An answer that refuses a call, as problem details (RFC 9457). */
export class Refusal {
  readonly status: number;
  readonly detail: string;
  readonly more: Record<string, unknown>;

  constructor(status: number, detail: string, more: Record<string, unknown> = {}) {
    this.status = status;
    this.detail = detail;
    this.more = more;
  }
}

/** What the service answers, by method and path without the query; a function is told of the call. */
export type Answers = Record<string, unknown>;

const json = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });

/** Shows a page before a service that answers so; what is not named is not there. */
export function open(page: ReactNode, answers: Answers, at = "/") {
  cleanup();
  const calls: Call[] = [];
  vi.stubGlobal("fetch", async (address: string, init: RequestInit = {}) => {
    const url = new URL(address, "http://localhost");
    const call: Call = {
      method: init.method ?? "GET",
      path: url.pathname,
      query: Object.fromEntries(url.searchParams),
      body: typeof init.body === "string" ? JSON.parse(init.body) : undefined,
    };
    calls.push(call);
    const name = `${call.method} ${call.path}`;
    if (!(name in answers)) return json(404, { title: "Not found", detail: `There is no ${name} here.` });
    const answer = answers[name];
    const given = typeof answer === "function" ? answer(call) : answer;
    if (given instanceof Refusal)
      return json(given.status, { title: "Refused", detail: given.detail, ...given.more });
    return given === undefined ? new Response(null, { status: 204 }) : json(200, given);
  });
  vi.stubGlobal(
    "EventSource",
    class extends EventTarget {
      close() {}
    },
  );
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  );
  const { hook, searchHook, history } = memoryLocation({ path: at, record: true });
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  render(
    <QueryClientProvider client={client}>
      <Tooltip.Provider>
        <Router hook={hook} searchHook={searchHook}>
          {page}
        </Router>
      </Tooltip.Provider>
    </QueryClientProvider>,
  );
  return {
    calls,
    /** The calls of one sort, the latest last. */
    of: (method: string, path: string) =>
      calls.filter((call) => call.method === method && call.path === path),
    /** Where the person is. */
    here: () => history.at(-1),
  };
}
