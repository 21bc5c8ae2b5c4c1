"use client";
import { QueryClient, QueryClientProvider, useQueryClient } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { useEffect, useState, type ReactNode } from "react";
import { Toaster } from "sonner";

/** Hears of changes by server-sent events and fetches anew what they touch. */
function Listener() {
  const client = useQueryClient();
  useEffect(() => {
    const source = new EventSource("/api/events");
    let pending: ReturnType<typeof setTimeout> | null = null;
    const refresh = (event: MessageEvent<string>) => {
      const { kind } = JSON.parse(event.data) as { kind: string };
      void client.invalidateQueries({ queryKey: ["jobs"] });
      if (kind !== "collection" || pending) return;
      // Several changes in a row are one refresh.
      pending = setTimeout(() => {
        pending = null;
        void client.invalidateQueries({
          predicate: ({ queryKey }) => queryKey[0] !== "jobs" && queryKey[0] !== "still",
        });
      }, 250);
    };
    source.addEventListener("message", refresh);
    return () => {
      source.close();
      if (pending) clearTimeout(pending);
    };
  }, [client]);
  return null;
}

export function Providers({ children }: { children: ReactNode }) {
  const [client] = useState(
    () => new QueryClient({ defaultOptions: { queries: { staleTime: 5000, retry: 1, refetchOnWindowFocus: false } } }),
  );
  return (
    <QueryClientProvider client={client}>
      <Tooltip.Provider delayDuration={400}>
        <Listener />
        {children}
        <Toaster
          position="bottom-left"
          toastOptions={{
            style: {
              background: "var(--color-dim)",
              color: "var(--color-dim-ink)",
              border: "0",
              borderRadius: 6,
              fontFamily: "var(--font-text)",
            },
          }}
        />
      </Tooltip.Provider>
    </QueryClientProvider>
  );
}
