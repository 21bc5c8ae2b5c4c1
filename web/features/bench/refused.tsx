"use client";
import { stepsText } from "@larder/core/labels/describe";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import type { SavingState, Session } from "./session";

/** Somebody changed the same meanwhile: what was done here and what stands there, to choose between. */
export function Refused({
  saving,
  session,
  className,
}: {
  saving: Extract<SavingState, { is: "refused" }>;
  session: Session;
  className: (id: number) => string;
}) {
  return (
    <Dialog open onOpenChange={() => undefined} title="This was not saved" description={saving.message}>
      <div className="grid grid-cols-2 gap-4">
        <section>
          <h3 className="mb-1 text-[14px]">Done here</h3>
          <ul className="list-disc pl-4">
            {saving.changes.map(({ key, steps }) => (
              <li key={key}>{stepsText(steps, className)}</li>
            ))}
          </ul>
        </section>
        <section>
          <h3 className="mb-1 text-[14px]">As it stands there</h3>
          <ul className="list-disc pl-4">
            {saving.theirs.objects.map(({ uid, class: id }) => (
              <li key={uid}>{className(id)}</li>
            ))}
            {saving.theirs.objects.length === 0 ? <li>no objects</li> : null}
          </ul>
        </section>
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={() => session.settle("theirs")}>Leave it as it stands there</Button>
        <Button look="go" onClick={() => session.settle("mine")}>
          Do it again on top of that
        </Button>
      </div>
    </Dialog>
  );
}
