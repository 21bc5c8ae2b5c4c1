"use client";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { count } from "@/ui/words";

/** An object of which something has to be said that is not. */
export type Unsaid = { uid: string; className: string; attributes: readonly string[] };

/** Asks for what is required before one goes on to another image. */
export function RequiredDialog({
  objects,
  onFill,
  onLeave,
  onClose,
}: {
  objects: readonly Unsaid[];
  onFill: () => void;
  onLeave: () => void;
  onClose: () => void;
}) {
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={`${count(objects.length, "object lacks", "objects lack")} what is required`}
    >
      <ul className="max-h-60 list-disc overflow-y-auto pl-4">
        {objects.map(({ uid, className, attributes }) => (
          <li key={uid}>
            {className}: {attributes.join(", ")}
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
