"use client";
import type { Band } from "@larder/core/plans/flow";
import { splitNames } from "@larder/core/model/item";
import { useActs } from "@/features/acts/use-acts";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { SplitMark } from "@/ui/marks";
import { count } from "@/ui/words";

/** Asks whether the splits that a plan deals are to be the stock's own, and makes them so. */
export function DealDialog({
  collection,
  plan,
  bands,
  onDone,
}: {
  collection: number;
  plan: number;
  /** What the split step comes to. */
  bands: readonly Band[];
  onDone: () => void;
}) {
  const { deal } = useActs(collection);
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onDone()}
      title="Make these the stock's own splits"
      description="Every image that this plan keeps gets the split it is dealt here, for this and every other plan. Images that leave the plan keep theirs. It is one act, and can be taken back."
    >
      <ul className="flex gap-6">
        {splitNames.map((split) => {
          const images = bands.filter((band) => band.split === split).reduce((sum, band) => sum + band.images, 0);
          return (
            <li key={split} className="flex items-center gap-2">
              <SplitMark split={split} /> {count(images, "image")}
            </li>
          );
        })}
      </ul>
      <div className="mt-5 flex justify-end gap-2">
        <Button onClick={onDone}>Not now</Button>
        <Button
          look="go"
          onClick={() => {
            onDone();
            void deal(plan);
          }}
        >
          Make them the stock&apos;s own
        </Button>
      </div>
    </Dialog>
  );
}
