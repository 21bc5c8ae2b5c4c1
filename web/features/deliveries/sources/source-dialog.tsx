"use client";
import { useState } from "react";
import { api } from "@/features/live/api";
import { Dialog } from "@/ui/dialog";
import { Addresses } from "./addresses";
import type { Begin } from "./begin";
import { FromBucket, FromFolder } from "./levels";
import { FromCollection } from "./from-collection";
import { Samples } from "./samples";

export const sourceTitles = {
  folder: "A folder of the server",
  bucket: "A bucket",
  addresses: "Web addresses",
  collection: "Another collection",
  sample: "The shelf of samples",
} as const;
export type SourceKind = keyof typeof sourceTitles;

const descriptions: Record<SourceKind, string> = {
  folder: "Read where it lies. Scanned again later, it brings what is new or changed.",
  bucket: "Everything below a prefix of an object store. Scanned again later, it brings what is new or changed.",
  addresses: "One address a line, or a CSV with columns url and name.",
  collection: "Images that are in stock elsewhere, with their labels or without. No byte is stored twice.",
  sample: "Made-up collections to try things on, free to use.",
};

/** Asks for what a delivery from elsewhere needs, and begins it. */
export function SourceDialog({
  collection,
  kind,
  onDone,
  onBegun,
}: {
  collection: number;
  kind: SourceKind;
  onDone: () => void;
  onBegun: (delivery: number) => void;
}) {
  const [error, setError] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const begin: Begin = async (input) => {
    setBusy(true);
    setError(null);
    try {
      const { id } = await api<{ id: number }>(`/api/collections/${collection}/deliveries`, {
        method: "POST",
        body: input,
      });
      onDone();
      onBegun(id);
    } catch (problem) {
      setError((problem as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog
      wide={kind === "sample"}
      open
      onOpenChange={(open) => !open && onDone()}
      title={sourceTitles[kind]}
      description={descriptions[kind]}
    >
      {kind === "folder" ? <FromFolder begin={begin} busy={busy} /> : null}
      {kind === "bucket" ? <FromBucket begin={begin} busy={busy} /> : null}
      {kind === "addresses" ? <Addresses begin={begin} busy={busy} /> : null}
      {kind === "collection" ? <FromCollection collection={collection} begin={begin} busy={busy} /> : null}
      {kind === "sample" ? <Samples begin={begin} busy={busy} /> : null}
      {error ? (
        <p role="alert" className="mt-3 text-harm">
          {error}
        </p>
      ) : null}
    </Dialog>
  );
}
