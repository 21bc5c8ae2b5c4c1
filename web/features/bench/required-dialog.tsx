"use client";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { count } from "@/ui/words";
import type { Unsaid } from "@larder/core/editing/unsaid";

/** Asks for what is required before one goes on to another image. */
export function RequiredDialog({
  unsaid,
  onFill,
  onLeave,
  onClose,
}: {
  unsaid: readonly Unsaid[];
  onFill: () => void;
  onLeave: () => void;
  onClose: () => void;
}) {
  const objects = unsaid.reduce((sum, { uids }) => sum + uids.length, 0);
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={`${count(objects, "object lacks", "objects lack")} what is required`}
    >
      <ul className="max-h-60 list-disc overflow-y-auto pl-4">
        {unsaid.map(({ uids, className, attributes }) => (
          <li key={uids[0]}>
            {className}: {attributes.join(", ")}
            {uids.length > 1 ? <span className="text-ink-3"> on {count(uids.length, "object")}</span> : null}
          </li>
        ))}
      </ul>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onLeave}>Leave it unsaid</Button>
        <Button look="go" autoFocus onClick={onFill}>
          Fill it in
        </Button>
      </div>
    </Dialog>
  );
}
