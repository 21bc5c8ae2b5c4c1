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

/** The image on the bench and the work on it. While another one is being opened, the one before it stays. */
export function useSession(collection: number, id: number) {
  const { data, error } = useQuery(benchQuery(collection, id));
  const [opened, setOpened] = useState<{ image: BenchImage; session: Session } | null>(null);
  const isThere = data?.id === id;
  useEffect(() => {
    if (!isThere || !data) return;
    let current: Session | null = null;
    let gone = false;
    void Session.open(collection, data).then((session) => {
      if (gone) return session.close();
      current = session;
      setOpened({ image: data, session });
    });
    return () => {
      gone = true;
      current?.close();
    };
    // The session itself takes over what changes later.
  }, [collection, id, isThere]);
  const revision = data?.id === opened?.image.id ? data?.revision : undefined;
  useEffect(() => {
    if (revision !== undefined) void opened?.session.refresh();
  }, [opened, revision]);
  const { subscribe, snapshot } = opened?.session ?? nothing;
  const state = useSyncExternalStore<SessionState | null>(subscribe, snapshot, () => null);
  return { opened: opened && state ? { ...opened, state } : null, error };
}
