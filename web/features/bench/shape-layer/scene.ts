/** What the page tells the worker that paints the shapes, and what comes back. */
import type { View } from "@larder/core/editing/view";
import type { PaintedObject } from "../paint";

export type SceneObject = { uid: string } & Pick<PaintedObject, "shape" | "colour" | "skeleton">;

/** Objects that are new or other than they were; `order` holds the uids of all, in the order they are drawn in. */
export type SceneChange = { of: "scene"; scene: number; changed: readonly SceneObject[]; order: readonly string[] };

/** How the picture lies; the painting goes `margin` screen pixels beyond the surface on each side. */
export type Placing = {
  of: "placing";
  view: View;
  width: number;
  height: number;
  margin: number;
  ratio: number;
  filled: boolean;
};

/** The shapes of a scene as they lie in a view. */
export type Painting = { bitmap: ImageBitmap; view: View; margin: number; scene: number };
