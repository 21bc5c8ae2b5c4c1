"use client";
import { grown } from "@larder/core/editing/mask-shape";
import { scaleAbout } from "@larder/core/editing/move";
import type { StockObject } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import type { Size } from "@larder/core/model/item";
import type { Shape } from "@larder/core/model/shape";
import { useState } from "react";
import { toast } from "sonner";
import { Button } from "@/ui/button";
import { Dialog, DialogCancel } from "@/ui/dialog";
import { NumberInput } from "@/ui/number-input";

export type Amount = "scale" | "grow";

const kinds: Record<
  Amount,
  { title: string; label: string; unit: string; usual: number; least: number; most: number; step: number }
> = {
  scale: { title: "Scale it", label: "To", unit: "% of its size", usual: 110, least: 1, most: 1000, step: 1 },
  grow: { title: "Grow or shrink it", label: "By", unit: "pixels", usual: 2, least: -200, most: 200, step: 1 },
};

function resized(shape: Shape, amount: Amount, value: number, size: Size): Shape | null {
  if (amount === "scale") return scaleAbout(shape, value / 100, size);
  return shape.kind === "mask" ? grown(shape, value) : shape;
}

/** By how much the chosen objects are scaled, or their masks grown; fewer than no pixels shrink them. */
export function AmountDialog({
  amount,
  objects,
  size,
  onSteps,
  onClose,
}: {
  amount: Amount;
  objects: readonly StockObject[];
  size: Size;
  onSteps: (steps: Step[]) => void;
  onClose: () => void;
}) {
  const { title, label, unit, usual, least, most, step } = kinds[amount];
  const [value, setValue] = useState(usual);
  const apply = () => {
    const results = objects.map(({ uid, shape }) => ({
      uid,
      before: shape,
      shape: resized(shape, amount, value, size),
    }));
    if (results.some(({ shape }) => shape === null)) return void toast("Nothing of it would be left.");
    onSteps(
      results.flatMap(({ uid, before, shape }): Step[] =>
        shape && shape !== before ? [{ do: "set-shape", uid, shape }] : [],
      ),
    );
    onClose();
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={title}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          apply();
        }}
      >
        <label className="flex items-center gap-2">
          {label}
          <NumberInput
            autoFocus
            value={value}
            min={least}
            max={most}
            step={step}
            onChange={setValue}
            className="h-8 w-24"
          />
          {unit}
        </label>
        <div className="mt-4 flex justify-end gap-2">
          <DialogCancel />
          <Button look="go" type="submit">
            {title}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
