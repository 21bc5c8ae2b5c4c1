/**
 * The shapes of an image as a picture of its own under what is drawn and mended. It is painted by a worker; until a new
 * painting comes, the last one is moved and scaled along with the picture.
 */
import type { View } from "@larder/core/editing/view";
import type { Painting, Placing, SceneChange, SceneObject } from "./scene";

/** How far the painting goes beyond the surface, as a share of its longer side: so far a quick pan shows shapes. */
const marginShare = 0.15;

export class ShapeLayer {
  private readonly worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
  private readonly context: ImageBitmapRenderingContext | null;
  private sent = new Map<string, SceneObject>();
  private order: readonly string[] = [];
  /** By uid the scene in which an object last changed. */
  private changedIn = new Map<string, number>();
  private scene = 0;
  /** Paintings of scenes before this one are of another image. */
  private hiddenBefore = 0;
  private painted: Painting | null = null;
  private view: View = { scale: 1, x: 0, y: 0 };
  private placing: Placing | null = null;

  /** `onPainted` is called when a painting has come: what was shown in its stead is not needed any more. */
  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly onPainted: () => void,
  ) {
    this.context = canvas.getContext("bitmaprenderer");
    this.worker.onmessage = ({ data }: MessageEvent<Painting>) => this.show(data);
  }

  close(): void {
    this.worker.terminate();
  }

  /** The objects to be shown, in the order they are drawn in. */
  put(objects: readonly SceneObject[]): void {
    const changed = objects.filter((object) => {
      const before = this.sent.get(object.uid);
      return before?.shape !== object.shape || before.colour !== object.colour || before.skeleton !== object.skeleton;
    });
    const order = objects.map(({ uid }) => uid);
    const isSameOrder = order.length === this.order.length && order.every((uid, n) => uid === this.order[n]);
    if (changed.length === 0 && isSameOrder) return;
    this.order = order;
    this.scene++;
    this.sent = new Map(objects.map((object) => [object.uid, object]));
    for (const { uid } of changed) this.changedIn.set(uid, this.scene);
    this.worker.postMessage({ of: "scene", scene: this.scene, changed, order } satisfies SceneChange);
  }

  /** Shows nothing until the objects of another image are painted. */
  clear(): void {
    this.canvas.style.visibility = "hidden";
    this.painted = null;
    this.hiddenBefore = this.scene + 1;
  }

  /** Whether an object is not yet shown as it is. */
  isBehind(uid: string): boolean {
    return this.painted !== null && (this.changedIn.get(uid) ?? 0) > this.painted.scene;
  }

  /** How the picture lies now. `size` of the surface is in screen pixels, `ratio` the device's pixels to one of them. */
  place(view: View, size: { width: number; height: number }, ratio: number, filled: boolean): void {
    this.view = view;
    this.follow();
    const margin = Math.round(marginShare * Math.max(size.width, size.height));
    const next: Placing = { of: "placing", view, width: size.width, height: size.height, margin, ratio, filled };
    if (JSON.stringify(next) === JSON.stringify(this.placing)) return;
    this.placing = next;
    this.worker.postMessage(next);
  }

  private show(painting: Painting): void {
    if (painting.scene < this.hiddenBefore) return painting.bitmap.close();
    this.canvas.style.visibility = "inherit";
    this.painted = painting;
    const { width, height } = painting.bitmap;
    if (this.canvas.width !== width) this.canvas.width = width;
    if (this.canvas.height !== height) this.canvas.height = height;
    const ratio = this.placing?.ratio ?? 1;
    this.canvas.style.width = `${width / ratio}px`;
    this.canvas.style.height = `${height / ratio}px`;
    this.context?.transferFromImageBitmap(painting.bitmap);
    this.follow();
    this.onPainted();
  }

  /** Moves what was painted for another view to where it lies in this one. */
  private follow(): void {
    if (!this.painted) return;
    const { view, margin } = this.painted;
    const scale = this.view.scale / view.scale;
    const [x, y] = [this.view.x - scale * (margin + view.x), this.view.y - scale * (margin + view.y)];
    this.canvas.style.transform = `matrix(${scale},0,0,${scale},${x},${y})`;
  }
}
