"use client";
import type { CheckEntry } from "@larder/server/services/checks/check-entry";
import { useActs } from "@/features/acts/use-acts";
import { Button } from "@/ui/button";
import { Dialog, DialogCancel } from "@/ui/dialog";
import { count } from "@/ui/words";
import type { CheckScope } from "./scope";

/** What a mend will do, before it is done. */
export function MendDialog({
  collection,
  scope,
  finding,
  mend,
  onClose,
}: {
  collection: number;
  scope: CheckScope;
  finding: CheckEntry;
  /** Its place among the finding's mends. */
  mend: number;
  onClose: () => void;
}) {
  const { mendFinding } = useActs(collection);
  const { label, images } = finding.mends[mend] ?? { label: "Mend it", images: 0 };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={label}
      description={
        <>
          {finding.sentence}{" "}
          {images > 0 ? `This changes ${count(images, "image")}, as one act that can be undone.` : null}
        </>
      }
    >
      <div className="flex justify-end gap-2">
        <DialogCancel />
        <Button
          look="go"
          onClick={() => {
            onClose();
            void mendFinding({ key: finding.key, mend, mark: finding.mark, ...scope });
          }}
        >
          {label}
        </Button>
      </div>
    </Dialog>
  );
}
