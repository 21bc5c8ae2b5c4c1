"use client";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { useState, type ReactNode } from "react";
import { Toaster } from "sonner";
import { Listener } from "./listener";

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
          // Clear of the tray that rises from the bottom edge.
          offset={{ bottom: 68, left: 20 }}
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
