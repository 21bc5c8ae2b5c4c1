"use client";
import { useQuery } from "@tanstack/react-query";
import type { BenchImage } from "@larder/server/services/bench";
import { useEffect, useState, useSyncExternalStore } from "react";
import { api } from "@/features/live/api";
import { Session, type SessionState } from "./session";

const nothing = { subscribe: () => () => undefined, snapshot: (): SessionState | null => null };

/** How an image is fetched for the bench, also ahead of its opening. */
export const benchQuery = (collection: number, id: number) => ({
  queryKey: ["bench", collection, id],
  queryFn: ({ signal }: { signal: AbortSignal }) =>
    api<BenchImage>(`/api/collections/${collection}/bench/${id}`, { signal }),
});

/** The image on the bench and the work on it; `session` is null until it is there. */
export function useSession(collection: number, id: number) {
  const { data: image, error } = useQuery(benchQuery(collection, id));
  const [session, setSession] = useState<Session | null>(null);
  const opened = image?.id === id;
  useEffect(() => {
    if (!opened || !image) return;
    let current: Session | null = null;
    let gone = false;
    void Session.open(collection, image).then((one) => {
      if (gone) return one.close();
      current = one;
      setSession(one);
    });
    return () => {
      gone = true;
      current?.close();
      setSession(null);
    };
    // The session itself takes over what changes later.
  }, [collection, id, opened]);
  useEffect(() => void session?.refresh(), [session, image?.revision]);
  const { subscribe, snapshot } = session ?? nothing;
  const state = useSyncExternalStore<SessionState | null>(subscribe, snapshot, () => null);
  return { image: opened ? image : undefined, error, session, state };
}
