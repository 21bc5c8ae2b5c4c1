"use client";
import type { Topic } from "@larder/server/jobs/events";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { listenForChanges, type Revisions } from "./change-stream";
import type { CollectionHead } from "@larder/server/services/collections";
import { touches } from "./touched";

/** Several changes in a row are one fetch. */
const together = 250;
const ofStock: Topic[] = ["stock", "classes", "deliveries", "plans", "versions", "shelf"];

/** Hears of changes and fetches anew what they touch, nothing else. */
export function Listener() {
  const client = useQueryClient();
  useEffect(() => {
    let pending: { topics: readonly Topic[]; collection: number | null }[] = [];
    let timer: ReturnType<typeof setTimeout> | null = null;
    const refetch = () => {
      const due = pending;
      [pending, timer] = [[], null];
      void client.invalidateQueries({
        predicate: ({ queryKey }) => due.some(({ topics, collection }) => touches(queryKey, topics, collection)),
      });
    };
    const note = (topics: readonly Topic[], collection: number | null) => {
      pending.push({ topics, collection });
      timer ??= setTimeout(refetch, together);
    };
    // The newest revision heard of, by collection: what is fetched may have been worked out before it.
    const newest = new Map<number, number>();
    const hear = (collection: number, revision: number) =>
      newest.set(collection, Math.max(revision, newest.get(collection) ?? 0));
    const catchUp = (revisions: Revisions) => {
      note(["jobs"], null);
      for (const [id, revision] of Object.entries(revisions)) hear(Number(id), revision);
      const heads = client.getQueriesData<CollectionHead>({ queryKey: ["collection"] });
      for (const [, head] of heads) if (head && revisions[head.id] !== head.revision) note(ofStock, head.id);
      note(["shelf"], null);
    };
    const stop = listenForChanges({
      change: ({ topics, collection, revision }) => {
        if (collection !== null && revision !== null) hear(collection, revision);
        note(topics, collection);
      },
      revisions: catchUp,
    });
    const stopWatching = client.getQueryCache().subscribe(({ type, query }) => {
      if (
        type !== "updated" ||
        (query.queryKey as readonly unknown[])[0] !== "collection" ||
        query.state.fetchStatus !== "idle"
      )
        return;
      const head = query.state.data as CollectionHead | undefined;
      if (head && head.revision < (newest.get(head.id) ?? 0)) note(ofStock, head.id);
    });
    return () => {
      stop();
      stopWatching();
      if (timer) clearTimeout(timer);
    };
  }, [client]);
  return null;
}
