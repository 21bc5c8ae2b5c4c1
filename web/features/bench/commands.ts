/** What the bench does to the labels of its image, each as the steps it is. */
import { cutOut, splitAlong } from "@larder/core/editing/combine";
import { fillEnclosed, paintStroke } from "@larder/core/editing/mask-canvas";
import { maskOfPiece, pieceAround, pieceOf, toPiece, type MaskPiece } from "@larder/core/editing/mask-shape";
import { moveShape } from "@larder/core/editing/move";
import { boundsOfPoints } from "@larder/core/geometry/box";
import { paintPolygon } from "@larder/core/geometry/rasterise";
import { clipShape, reachesOutside, shapeBounds } from "@larder/core/geometry/shape";
import type { Labels, StockObject } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import type { Size } from "@larder/core/model/item";
import type { Shape } from "@larder/core/model/shape";
import { toast } from "sonner";
import { v7 as uuidV7 } from "uuid";
import { copiedObjects } from "./clipboard";
import type { Stroke } from "./surface";

export type Commands = ReturnType<typeof commandsOn>;

/** The commands on labels as they are now. `current`: the class that is drawn; where it is null, one is asked for. */
export function commandsOn({
  labels,
  size,
  chosen,
  current,
  change,
  setSelected,
  onDrawnAs,
  askForClass,
}: {
  labels: Labels;
  size: Size;
  chosen: readonly StockObject[];
  current: number | null;
  change: (steps: readonly Step[]) => void;
  setSelected: (uids: readonly string[]) => void;
  onDrawnAs: (classId: number) => void;
  askForClass: () => void;
}) {
  const take = (steps: readonly Step[]) => {
    try {
      change(steps);
    } catch (refusal) {
      toast.error((refusal as Error).message);
    }
  };
  const nextOrder = Math.max(-1, ...labels.objects.map(({ order }) => order)) + 1;
  /** The mask that painting goes on with: the chosen one. */
  const mask = chosen.length === 1 && chosen[0]?.shape.kind === "mask" ? chosen[0] : null;

  const add = (shape: Shape) => {
    if (current === null) return askForClass();
    const within = withinPicture(shape, size);
    if (!within) return void toast("That lies wholly outside of the picture. Nothing was drawn.");
    const uid = uuidV7();
    take([{ do: "add-object", object: { uid, class: current, order: nextOrder, shape: within } }]);
    onDrawnAs(current);
    setSelected([uid]);
  };

  /** `painted`: the way that is gone over, and how far to each side of it. */
  const paintMask = (painted: readonly number[], reach: number, paint: (piece: MaskPiece) => boolean) => {
    const boxes = [boundsOfPoints(painted), mask && shapeBounds(mask.shape)].flatMap((box) => box ?? []);
    const around = pieceAround(boxes, Math.ceil(reach) + 1, size);
    if (!around) return;
    const piece = pieceOf(mask?.shape ?? null, around);
    if (!paint(piece)) return;
    const shape = maskOfPiece(piece, size);
    if (mask && shape) take([{ do: "set-shape", uid: mask.uid, shape }]);
    else if (mask) take([{ do: "remove-object", uid: mask.uid }]);
    else if (shape) add(shape);
  };

  const answerSuggestion = (uid: string, answer: "taken" | "mended" | "refused", shape?: Shape) => {
    const one = labels.suggestions.find((suggestion) => suggestion.uid === uid);
    if (!one) return;
    const own = shape ?? one.shape;
    if (answer === "refused" || !own) {
      setSelected([]);
      return take([{ do: "answer-suggestion", uid, answer }]);
    }
    const object = {
      ...{ uid: uuidV7(), class: one.class, order: nextOrder, shape: own },
      ...(one.attributes ? { attributes: one.attributes } : {}),
    };
    take([
      { do: "answer-suggestion", uid, answer },
      { do: "add-object", object },
    ]);
    setSelected([object.uid]);
  };

  const split = (line: readonly number[]) => {
    const [object] = chosen;
    const halves = object && splitAlong(object.shape, line, size);
    if (!object || !halves) return void toast("The line does not cut what is chosen.");
    const uid = uuidV7();
    take([
      { do: "set-shape", uid: object.uid, shape: halves[0] },
      { do: "add-object", object: { ...object, uid, order: nextOrder, shape: halves[1] } },
    ]);
    setSelected([object.uid, uid]);
  };

  return {
    take,
    add,
    split,
    answerSuggestion,
    /** What a brush, a rubber or a lasso went over. */
    paint: ({ tool, points, radius, take: adds }: Stroke) => {
      const takesAway = tool === "rub" || (tool === "lasso" && !adds);
      if (takesAway && !mask) return void toast("Choose the mask to take something away from.");
      const value = takesAway ? 0 : 1;
      paintMask(points, tool === "lasso" ? 0 : radius, (piece) => {
        const path = toPiece(points, piece);
        if (tool === "lasso") paintPolygon(piece.bitmap, [[path]], piece.width, piece.height, value);
        else paintStroke(piece, path, radius, value);
        return true;
      });
    },
    fill: (x: number, y: number) => {
      if (!mask) return void toast("Choose the mask whose inside is to be filled.");
      paintMask([], 0, (piece) => {
        const isFilled = fillEnclosed(piece, Math.floor(x) - piece.left, Math.floor(y) - piece.top);
        if (!isFilled) toast("The mask does not enclose this place.");
        return isFilled;
      });
    },
    /** Cuts an outline out of the chosen area. */
    cutHole: (hole: Shape) => {
      const [object] = chosen;
      if (!object || chosen.length > 1) return void toast("Choose the one area to cut a hole into.");
      const left = cutOut(object.shape, hole, size);
      if (!left) return void toast("Nothing of it would be left.");
      take([{ do: "set-shape", uid: object.uid, shape: left }]);
    },
    /** New shapes of objects; a suggestion whose shape is changed is taken with it. */
    reshape: (shapes: readonly { uid: string; shape: Shape }[]) => {
      const [first] = shapes;
      const isSuggestion = labels.suggestions.some(({ uid, answer }) => uid === first?.uid && answer === undefined);
      if (first && isSuggestion) return answerSuggestion(first.uid, "mended", first.shape);
      take(shapes.map(({ uid, shape }): Step => ({ do: "set-shape", uid, shape })));
    },
    nameChosen: (classId: number) => {
      const others = chosen.filter((object) => object.class !== classId);
      if (others.length > 0) take(others.map(({ uid }): Step => ({ do: "set-class", uid, class: classId })));
    },
    removeChosen: () => {
      take(chosen.map(({ uid }): Step => ({ do: "remove-object", uid })));
      setSelected([]);
    },
    putCopied: () => {
      const objects = copiedObjects(nextOrder).filter(
        ({ shape }) => shape.kind !== "mask" || (shape.width === size.width && shape.height === size.height),
      );
      if (objects.length === 0) return void toast("Nothing was copied that fits here.");
      // On the same image a copy would lie unseen on what it was copied from.
      const isHere = objects.some(({ shape }) =>
        labels.objects.some((object) => JSON.stringify(object.shape) === JSON.stringify(shape)),
      );
      const placed = objects.map((object) => ({
        ...object,
        shape: isHere ? moveShape(object.shape, 8, 8, size) : object.shape,
      }));
      take(placed.map((object): Step => ({ do: "add-object", object })));
      setSelected(placed.map(({ uid }) => uid));
    },
    toggleEmpty: () => {
      if (labels.objects.length + labels.classes.length > 0)
        return void toast("There are labels on it: remove them first.");
      take([{ do: "set-state", state: labels.state === "empty" ? "unlabeled" : "empty" }]);
    },
  };
}

/** The part of a shape that lies in the picture; null for one that lies wholly outside. */
function withinPicture(shape: Shape, { width, height }: Size): Shape | null {
  const bounds = shapeBounds(shape);
  const isOutside =
    bounds !== null &&
    (bounds.x >= width || bounds.y >= height || bounds.x + bounds.width <= 0 || bounds.y + bounds.height <= 0);
  if (isOutside) return null;
  return reachesOutside(shape, width, height) ? clipShape(shape, width, height) : shape;
}
