"use client";
import Link from "next/link";
import { useState } from "react";
import { toast } from "sonner";
import { useActs } from "@/features/acts/use-acts";
import { api } from "@/features/live/api";
import { useBin, useCollection } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { count } from "@/ui/words";

/** What lies in the bin, to be taken out again or to go for good. */
export function BinLine({ collection, linked = true }: { collection: number; linked?: boolean }) {
  const { data: bin } = useBin(collection);
  const { data: head } = useCollection(collection);
  const { act } = useActs(collection);
  const [asking, setAsking] = useState(false);
  const [typed, setTyped] = useState("");
  if (!bin || !head || bin.images === 0) return null;
  const many = count(bin.images, "image");
  const empty = async () => {
    try {
      await api(`/api/collections/${collection}/bin`, { method: "DELETE" });
      setAsking(false);
      toast(`${many} in the bin are being deleted.`);
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <section aria-label="Bin" className="mx-5 mb-3 flex items-center gap-3 border-y border-rule bg-sheet px-4 py-2">
      <p>
        <b className="font-semibold">{many}</b> {bin.images === 1 ? "lies" : "lie"} in the bin. What is put there goes
        for good after {bin.days} days.
      </p>
      <span className="ml-auto flex gap-2">
        {linked ? (
          <Button small asChild>
            <Link href={`/c/${collection}/bin`}>See {bin.images === 1 ? "it" : "them"}</Link>
          </Button>
        ) : null}
        <Button small onClick={() => void act({ where: "", only: null, except: [] }, { do: "restore" })}>
          Take all out
        </Button>
        <Button small look="harm" onClick={() => setAsking(true)}>
          Empty the bin
        </Button>
      </span>
      <Dialog
        open={asking}
        onOpenChange={setAsking}
        title="Empty the bin"
        description={`${many} and their labels are deleted for good. Versions built from them stay as they are. This cannot be undone.`}
      >
        <TextField
          label={`Type ${head.name} to go on`}
          value={typed}
          autoComplete="off"
          onChange={(event) => setTyped(event.target.value)}
        />
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={() => setAsking(false)}>Cancel</Button>
          <Button look="harm" disabled={typed.trim() !== head.name} onClick={() => void empty()}>
            Delete {many}
          </Button>
        </div>
      </Dialog>
    </section>
  );
}
