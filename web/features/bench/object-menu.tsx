"use client";
import { cutOut, merged } from "@larder/core/editing/combine";
import { largestPart, withoutHoles } from "@larder/core/editing/mask-shape";
import { mirrorShape } from "@larder/core/editing/move";
import { shapeArea } from "@larder/core/geometry/shape";
import type { StockObject } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import type { Size } from "@larder/core/model/item";
import type { Shape } from "@larder/core/model/shape";
import { toast } from "sonner";
import { Button } from "@/ui/button";
import { Menu, MenuItem, MenuRule } from "@/ui/menu";
import type { Amount } from "./amount-dialog";

const isArea = ({ shape }: StockObject) => shape.kind !== "line" && shape.kind !== "keypoints";

/** What can be done to the chosen objects beside pulling at them. */
export function ObjectMenu({
  chosen,
  objects,
  size,
  onSteps,
  onChangeKind,
  onAmount,
  onFollowing,
  onSplit,
}: {
  chosen: readonly StockObject[];
  objects: readonly StockObject[];
  size: Size;
  onSteps: (steps: Step[]) => void;
  onChangeKind: () => void;
  onAmount: (amount: Amount) => void;
  onFollowing: () => void;
  onSplit: () => void;
}) {
  const orders = objects.map(({ order }) => order);
  const reshape = (change: (shape: Shape) => Shape | null) =>
    onSteps(
      chosen.flatMap(({ uid, shape }): Step[] => {
        const after = change(shape);
        if (after === null) toast("Nothing of it would be left.");
        return after === null || after === shape ? [] : [{ do: "set-shape", uid, shape: after }];
      }),
    );
  const [first, ...rest] = chosen;
  const combine = (shape: Shape | null, gone: readonly StockObject[]) => {
    if (!first || !shape) return void toast("Nothing of it would be left.");
    onSteps([
      { do: "set-shape", uid: first.uid, shape },
      ...gone.map(({ uid }): Step => ({ do: "remove-object", uid })),
    ]);
  };
  const largestFirst = [...chosen].sort((a, b) => shapeArea(b.shape) - shapeArea(a.shape));
  const masks = chosen.filter(({ shape }) => shape.kind === "mask");
  const onMasks = (change: (mask: Extract<Shape, { kind: "mask" }>) => Shape | null) =>
    reshape((shape) => (shape.kind === "mask" ? change(shape) : shape));
  return (
    <Menu
      trigger={
        <Button look="dim" small disabled={chosen.length === 0}>
          Change it
        </Button>
      }
    >
      <div className="max-h-[70vh] overflow-y-auto text-[13px]">
        <MenuItem
          onSelect={() =>
            onSteps(chosen.map(({ uid }, n) => ({ do: "order-object", uid, order: Math.max(...orders) + 1 + n })))
          }
        >
          To the front
        </MenuItem>
        <MenuItem
          onSelect={() =>
            onSteps(
              chosen.map(({ uid }, n) => ({ do: "order-object", uid, order: Math.min(...orders) - chosen.length + n })),
            )
          }
        >
          To the back
        </MenuItem>
        <MenuRule />
        <MenuItem onSelect={() => reshape((shape) => mirrorShape(shape, "sideways", size))}>Mirror sideways</MenuItem>
        <MenuItem onSelect={() => reshape((shape) => mirrorShape(shape, "upside-down", size))}>
          Mirror upside down
        </MenuItem>
        <MenuItem onSelect={() => onAmount("scale")}>Scale it</MenuItem>
        <MenuRule />
        {chosen.every(isArea) ? <MenuItem onSelect={onChangeKind}>Make it another kind of shape</MenuItem> : null}
        {chosen.length === 1 && chosen.every(isArea) ? (
          <MenuItem onSelect={onSplit}>Split it by a line</MenuItem>
        ) : null}
        {chosen.length > 1 && chosen.every(isArea) ? (
          <>
            <MenuItem
              onSelect={() =>
                combine(
                  merged(
                    chosen.map(({ shape }) => shape),
                    size,
                  ),
                  rest,
                )
              }
            >
              Merge into one
            </MenuItem>
            <MenuItem
              onSelect={() => {
                const [large, ...small] = largestFirst;
                if (!large) return;
                const left = small.reduce<Shape | null>(
                  (shape, hole) => shape && cutOut(shape, hole.shape, size),
                  large.shape,
                );
                if (!left) return void toast("Nothing of it would be left.");
                onSteps([{ do: "set-shape", uid: large.uid, shape: left }]);
              }}
            >
              Cut the smaller out of the largest
            </MenuItem>
          </>
        ) : null}
        {masks.length > 0 ? (
          <>
            <MenuRule />
            <MenuItem onSelect={() => onAmount("grow")}>Grow or shrink it</MenuItem>
            <MenuItem onSelect={() => onMasks(withoutHoles)}>Fill its holes</MenuItem>
            <MenuItem onSelect={() => onMasks(largestPart)}>Keep its largest part</MenuItem>
          </>
        ) : null}
        <MenuRule />
        <MenuItem onSelect={onFollowing}>The same on the following images</MenuItem>
        <MenuItem harm onSelect={() => onSteps(chosen.map(({ uid }) => ({ do: "remove-object", uid })))}>
          Remove
        </MenuItem>
      </div>
    </Menu>
  );
}
