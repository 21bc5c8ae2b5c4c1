"use client";
import { convertShape } from "@larder/core/editing/convert";
import type { StockObject } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import type { Size } from "@larder/core/model/item";
import { useMemo, useState } from "react";
import { Button } from "@/ui/button";
import { Choice } from "@/ui/choice";
import { Dialog, DialogCancel } from "@/ui/dialog";
import { NumberInput } from "@/ui/number-input";
import { kindWords } from "@/features/shapes/kind-words";

const kinds = ["polygon", "mask", "rotated-box", "box"] as const;

/** Shapes made into another kind, with what that loses said before. */
export function KindDialog({
  objects,
  size,
  onSteps,
  onClose,
}: {
  objects: readonly StockObject[];
  size: Size;
  onSteps: (steps: Step[]) => void;
  onClose: () => void;
}) {
  const [kind, setKind] = useState<(typeof kinds)[number]>("polygon");
  const [tolerance, setTolerance] = useState(0.5);
  const results = useMemo(
    () => objects.map(({ uid, shape }) => ({ uid, made: convertShape(shape, kind, size, tolerance) })),
    [objects, kind, size, tolerance],
  );
  const made = results.flatMap(({ uid, made: one }) => (one ? [{ uid, ...one }] : []));
  const worst = Math.max(0, ...made.map(({ loss }) => loss));
  const corners = made.reduce(
    (sum, { shape }) => sum + (shape.kind === "polygon" ? shape.parts.flat(2).length / 2 : 0),
    0,
  );
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="Make it another kind of shape">
      <div className="space-y-3">
        <Choice
          label="Kind of shape"
          value={kind}
          onChange={setKind}
          options={kinds.map((value) => ({ value, label: kindWords[value] }))}
        />
        {kind === "polygon" ? (
          <label className="flex items-center gap-2">
            Corners may be off by
            <NumberInput value={tolerance} min={0} max={50} step={0.5} onChange={setTolerance} className="h-8 w-20" />
            pixels
          </label>
        ) : null}
        <p role="status">
          {made.length === 0
            ? "Nothing of it would be left."
            : `${worst < 0.0005 ? "Loses nothing" : `Loses ${(100 * worst).toFixed(1)}% of the area`}${kind === "polygon" ? `, ${corners.toLocaleString("en-US")} corners` : ""}.`}
        </p>
        <div className="flex justify-end gap-2">
          <DialogCancel />
          <Button
            look="go"
            disabled={made.length === 0}
            onClick={() => {
              onSteps(made.map(({ uid, shape }) => ({ do: "set-shape", uid, shape })));
              onClose();
            }}
          >
            Make it {kindWords[kind]}
          </Button>
        </div>
      </div>
    </Dialog>
  );
}
