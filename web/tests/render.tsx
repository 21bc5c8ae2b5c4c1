/** Puts a component on a page as the application does, with answers of the server that a test gives. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render } from "@testing-library/react";
import { NuqsTestingAdapter } from "nuqs/adapters/testing";
import type { ReactElement } from "react";
import { afterEach, vi } from "vitest";

export type Request = { method: string; path: string; body: unknown };

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

/** Renders `element`; `answers` are what the server says by path, and what it was asked is returned as it comes. */
export function renderWith(element: ReactElement, answers: Record<string, unknown> = {}): { requests: Request[] } {
  const requests: Request[] = [];
  vi.stubGlobal("fetch", (path: string, init: RequestInit = {}) => {
    const body: unknown = typeof init.body === "string" ? JSON.parse(init.body) : null;
    requests.push({ method: init.method ?? "GET", path, body });
    return path in answers
      ? Promise.resolve(Response.json(answers[path]))
      : Promise.resolve(Response.json({ code: "missing", message: `Nothing answers ${path}.` }, { status: 404 }));
  });
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  render(
    <NuqsTestingAdapter hasMemory>
      <QueryClientProvider client={client}>{element}</QueryClientProvider>
    </NuqsTestingAdapter>,
  );
  return { requests };
}
