"use client";
import { disputedObjects } from "@larder/core/editing/disputed";
import { stepsText } from "@larder/core/labels/describe";
import type { Labels } from "@larder/core/labels/labels";
import type { Size } from "@larder/core/model/item";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { count } from "@/ui/words";
import { DisputedPicture } from "./disputed-picture";
import type { SavingState, Session } from "./session";

/** Somebody changed the same meanwhile: what was done here and what stands there, to choose between. */
export function Refused({
  image,
  size,
  own,
  saving,
  session,
  className,
  colourOf,
}: {
  image: number;
  size: Size;
  /** Labels as they are shown here. */
  own: Labels;
  saving: Extract<SavingState, { is: "refused" }>;
  session: Session;
  className: (id: number) => string;
  colourOf: (id: number) => string;
}) {
  const disputed = disputedObjects(
    saving.changes.flatMap(({ steps }) => steps),
    saving.theirs,
    own,
  );
  const picture = { image, size, disputed, colourOf };
  return (
    <Dialog open wide title="This was not saved" description={saving.message}>
      <div className="grid grid-cols-2 gap-4">
        <section>
          <h3 className="mb-1 text-[14px]">Done here</h3>
          <DisputedPicture {...picture} side="mine" />
          <ul className="list-disc pl-4">
            {saving.changes.map(({ key, steps }) => (
              <li key={key}>{stepsText(steps, className)}</li>
            ))}
          </ul>
        </section>
        <section>
          <h3 className="mb-1 text-[14px]">As it stands there</h3>
          <DisputedPicture {...picture} side="theirs" />
          <ul className="list-disc pl-4">
            {disputed.map(({ uid, theirs }) => (
              <li key={uid}>{theirs ? className(theirs.class) : "taken away"}</li>
            ))}
            {disputed.length === 0 ? <li>{count(saving.theirs.objects.length, "object")}</li> : null}
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
