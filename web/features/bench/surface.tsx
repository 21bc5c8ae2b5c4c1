"use client";
import { gripAt, gripsOf, removeCorner, dragGrip, type PlacedGrip } from "@larder/core/editing/grips";
import { holdsPoint, isNearOutline, objectAt, objectsWithin } from "@larder/core/editing/hit-test";
import { gripKey, moveCorners, moveShape } from "@larder/core/editing/move";
import { outlinesOf } from "@larder/core/editing/outlines";
import {
  fittingView,
  fullSizeView,
  panBy,
  toImage,
  viewOfBox,
  zoomAt,
  type Point,
  type View,
} from "@larder/core/editing/view";
import { shapeBounds } from "@larder/core/geometry/shape";
import { boxBetween, isAccident } from "@larder/core/editing/drawing";
import { snapPoint } from "@larder/core/editing/snap";
import type { StockObject } from "@larder/core/labels/labels";
import type { Size } from "@larder/core/model/item";
import type { Box, Shape } from "@larder/core/model/shape";
import { forwardRef, useEffect, useImperativeHandle, useLayoutEffect, useRef, useState } from "react";
import { finished, moved, pressed, released, stepBack, type Draft, type Surroundings } from "./gestures";
import { paintObject, toPictureFrame } from "./paint";
import { paintDraft, paintWords } from "./paint-draft";
import { paintGrips, turnReach } from "./paint-grips";
import { paintLoupe } from "./paint-loupe";
import type { PicturePixels } from "./picture-pixels";
import { ShapeLayer } from "./shape-layer/layer";
import { StrokePixels } from "./stroke-pixels";
import { paintsMasks, type Tool } from "./tools";

/** How near the pointer has to come, in screen pixels; a finger is broader. */
const reach = { mouse: 7, pen: 9, touch: 16 } as const;

export type Stroke = { tool: Tool; points: readonly number[]; radius: number; take: boolean };

/** What the page around the surface may ask of it. */
export type SurfaceHandle = {
  fit: () => void;
  fullSize: () => void;
  zoom: (factor: number) => void;
  show: (box: Box) => void;
  /** Ends what is being drawn (Enter), takes its last point back, or gives it up; false where nothing is drawn. */
  finish: () => boolean;
  back: () => boolean;
  cancel: () => boolean;
  /** Says that the next point of a skeleton is not there. */
  skipPoint: () => boolean;
  /** Takes the chosen corners of the chosen object away; false where none is chosen. */
  removeCorners: () => boolean;
};

type Pullable = Pick<StockObject, "uid" | "class" | "shape">;

type Drag =
  | { of: "pan"; at: Point }
  | { of: "grip"; uid: string; shape: Shape; grip: PlacedGrip; corners: readonly PlacedGrip[]; from: Point; now: Shape }
  | { of: "move"; objects: readonly Pullable[]; from: Point; dx: number; dy: number }
  | { of: "frame"; from: Point; to: Point; adds: boolean }
  | { of: "pinch"; distance: number; middle: Point };

type Props = {
  picture: HTMLImageElement | null;
  pixels: PicturePixels | null;
  address: string;
  filter: string;
  size: Size;
  objects: readonly StockObject[];
  suggested: readonly { uid: string; class: number; shape: Shape }[];
  /** An outline that is proposed for what is drawn next; places that belong to it, and do not, are said by clicks. */
  proposal: Shape | null;
  onSay: (x: number, y: number, belongs: boolean) => void;
  colourOf: (classId: number) => string;
  skeletonOf: (classId: number) => readonly (readonly [number, number])[] | null | undefined;
  selected: ReadonlySet<string>;
  tool: Tool;
  brush: number;
  /** The colour that what is drawn next has, the names of its keypoints in order, and which of them are joined. */
  colour: string;
  keypoints: readonly string[];
  skeleton: readonly (readonly [number, number])[];
  opacity: number;
  filled: boolean;
  /** The picture without any shapes. */
  bare: boolean;
  startView: View | null;
  onView: (view: View) => void;
  onSelect: (uids: readonly string[]) => void;
  onDrawn: (shape: Shape) => void;
  onChanged: (shapes: readonly { uid: string; shape: Shape }[]) => void;
  onStroke: (stroke: Stroke) => void;
  onFill: (x: number, y: number) => void;
  onBrush: (size: number) => void;
  onPointer: (place: Point | null) => void;
};

/** How far a grip is pulled; a corner is drawn to what lies near it. */
function pulledBy(
  { grip, x, y }: PlacedGrip,
  kind: Shape["kind"],
  from: Point,
  at: Point,
  { outlines, size, near, snaps }: Surroundings,
): [number, number] {
  const [dx, dy] = [at[0] - from[0], at[1] - from[1]];
  const isCorner = grip.of === "corner" || grip.of === "between" || (grip.of === "side" && kind === "box");
  if (!snaps || !isCorner) return [dx, dy];
  const place = snapPoint(x + dx, y + dy, outlines, size, near);
  return [place.x - x, place.y - y];
}

/** Which point comes next, in the order of its class. */
function keypointWords(draft: Draft | null, names: readonly string[]): string {
  const at = draft?.of === "keypoints" ? draft.points.length : 0;
  const name = names[at];
  return name === undefined || names.length < 2 ? "" : `${name} (${at + 1} of ${names.length})`;
}

/** The picture with its shapes, and the pointer that draws and mends them. */
export const Surface = forwardRef<SurfaceHandle, Props>(function Surface(props, handle) {
  const frame = useRef<HTMLDivElement>(null);
  const image = useRef<HTMLImageElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const layerCanvas = useRef<HTMLCanvasElement>(null);
  const layer = useRef<ShapeLayer | null>(null);
  const latest = useRef(props);
  latest.current = props;
  const view = useRef<View | null>(props.startView);
  const room = useRef<Size>({ width: 0, height: 0 });
  const draft = useRef<Draft | null>(null);
  const strokePixels = useRef<StrokePixels | null>(null);
  const drag = useRef<Drag | null>(null);
  const pointer = useRef<Point | null>(null);
  const touches = useRef(new Map<number, Point>());
  const corners = useRef<PlacedGrip[]>([]);
  const near = useRef<number>(reach.mouse);
  const spaceHeld = useRef(false);
  const waiting = useRef(0);
  const [hand, setHand] = useState(false);

  /** What can be chosen and pulled at: suggestions lie over the objects. */
  const pullable = (): readonly Pullable[] => [...latest.current.objects, ...latest.current.suggested];
  const chosenObject = () => {
    const { selected } = latest.current;
    return selected.size === 1 ? (pullable().find(({ uid }) => selected.has(uid)) ?? null) : null;
  };
  const shownView = (): View => view.current ?? fittingView(latest.current.size, room.current);
  const around = (alt: boolean): Surroundings => {
    const { objects, size, pixels, keypoints } = latest.current;
    const pulled = drag.current?.of === "grip" ? drag.current.uid : null;
    const distance = near.current / shownView().scale;
    const here = pointer.current && toImage(shownView(), pointer.current);
    const outlines =
      here && !alt
        ? objects
            .filter(({ uid, shape }) => {
              if (uid === pulled) return false;
              const box = shapeBounds(shape);
              return (
                box !== null &&
                here[0] > box.x - distance &&
                here[1] > box.y - distance &&
                here[0] < box.x + box.width + distance &&
                here[1] < box.y + box.height + distance
              );
            })
            .flatMap(({ shape }) => outlinesOf(shape))
        : [];
    return {
      size,
      outlines,
      near: distance,
      edgesAround: (x, y, reach) => pixels?.edgesAround(x, y, reach) ?? null,
      keypoints: keypoints.length,
      snaps: !alt,
    };
  };

  const paint = () => {
    waiting.current = 0;
    const context = canvas.current?.getContext("2d");
    if (!context || !canvas.current) return;
    const { objects, suggested, colourOf, skeletonOf, selected, opacity, filled, bare, brush, tool, colour } =
      latest.current;
    const at = shownView();
    const ratio = window.devicePixelRatio || 1;
    if (image.current) {
      image.current.style.transform = `matrix(${at.scale},0,0,${at.scale},${at.x},${at.y})`;
      image.current.style.imageRendering = at.scale >= 3 ? "pixelated" : "auto";
    }
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, canvas.current.width, canvas.current.height);
    layer.current?.place(at, room.current, ratio, filled);
    if (bare) return;
    toPictureFrame(context, at, ratio);
    const [left, top] = toImage(at, [0, 0]);
    const [right, bottom] = toImage(at, [room.current.width, room.current.height]);
    const movedBy = drag.current?.of === "move" ? drag.current : null;
    const moving = new Set(movedBy?.objects.map(({ uid }) => uid));
    for (const object of objects) {
      // All others are in the layer beneath.
      if (!isApart(object.uid) && !layer.current?.isBehind(object.uid)) continue;
      let { shape } = object;
      if (drag.current?.of === "grip" && drag.current.uid === object.uid) shape = drag.current.now;
      const box = shapeBounds(shape);
      const offset = movedBy && moving.has(object.uid) ? movedBy : null;
      if (!offset && box && (box.x > right || box.y > bottom || box.x + box.width < left || box.y + box.height < top))
        continue;
      const strong = selected.has(object.uid);
      if (offset) context.translate(offset.dx, offset.dy);
      paintObject(
        context,
        { shape, colour: colourOf(object.class), strong, dashed: false, skeleton: skeletonOf(object.class) },
        { opacity, filled },
        at,
      );
      if (offset) context.translate(-offset.dx, -offset.dy);
    }
    for (const one of suggested) {
      const shape = drag.current?.of === "grip" && drag.current.uid === one.uid ? drag.current.now : one.shape;
      const offset = movedBy && moving.has(one.uid) ? movedBy : null;
      if (offset) context.translate(offset.dx, offset.dy);
      const look = { shape, colour: colourOf(one.class), strong: selected.has(one.uid), dashed: true };
      paintObject(context, look, { opacity, filled: false }, at);
      if (offset) context.translate(-offset.dx, -offset.dy);
    }
    if (latest.current.proposal)
      paintObject(
        context,
        { shape: latest.current.proposal, colour, strong: true, dashed: true },
        { opacity: 1, filled: false },
        at,
      );
    const chosen = chosenObject();
    if (chosen && tool === "mend" && drag.current?.of !== "move")
      paintGrips(
        context,
        drag.current?.of === "grip" ? drag.current.now : chosen.shape,
        new Set(corners.current.map(({ grip }) => gripKey(grip))),
        at,
      );
    if (drag.current?.of === "frame") {
      const box = boxBetween(drag.current.from, drag.current.to);
      context.setLineDash([4 / at.scale, 3 / at.scale]);
      context.strokeStyle = "#fff";
      context.lineWidth = 1 / at.scale;
      context.strokeRect(box.x, box.y, box.width, box.height);
    }
    if (strokePixels.current) strokePixels.current.paint(context, at.scale);
    const { keypoints, skeleton } = latest.current;
    const look = { colour, brush, isArea: tool === "lasso", paintsPixels: strokePixels.current !== null, skeleton };
    const drawn = draft.current && paintDraft(context, draft.current, look, at);
    const words = tool === "keypoints" ? keypointWords(draft.current, keypoints) : drawn;
    if (words && pointer.current) paintWords(context, words, pointer.current, ratio);
    toPictureFrame(context, at, ratio);
    if ((tool === "brush" || tool === "rub") && pointer.current) {
      const [x, y] = toImage(at, pointer.current);
      context.setLineDash([]);
      context.beginPath();
      context.arc(x, y, brush / 2, 0, 2 * Math.PI);
      context.lineWidth = 1.2 / at.scale;
      context.strokeStyle = tool === "rub" ? "#fff" : colour;
      context.stroke();
    }
    const isPlacing = drag.current?.of === "grip" || (draft.current && draft.current.of !== "stroke");
    if (isPlacing && pointer.current && latest.current.picture)
      paintLoupe(context, latest.current.picture, pointer.current, at, room.current, ratio);
  };
  /** What is chosen or pulled at is not in the layer of the shapes, and painted for every frame. */
  const isApart = (uid: string) => {
    const now = drag.current;
    return (
      latest.current.selected.has(uid) ||
      (now?.of === "grip" && now.uid === uid) ||
      (now?.of === "move" && now.objects.some((object) => object.uid === uid))
    );
  };
  const putLayer = () => {
    const { objects, colourOf, skeletonOf } = latest.current;
    layer.current?.put(
      objects
        .filter(({ uid }) => !isApart(uid))
        .map(({ uid, shape, class: classId }) => ({
          ...{ uid, shape, colour: colourOf(classId), skeleton: skeletonOf(classId) },
        })),
    );
  };
  const repaint = () => {
    if (waiting.current === 0) waiting.current = requestAnimationFrame(paint);
  };
  const setView = (next: View) => {
    view.current = next;
    latest.current.onView(next);
    repaint();
  };

  useEffect(() => {
    if (!layerCanvas.current) return;
    const made = new ShapeLayer(layerCanvas.current, () => repaint());
    layer.current = made;
    return () => {
      layer.current = null;
      made.close();
    };
  }, []);
  useEffect(() => {
    putLayer();
    repaint();
  });
  useEffect(() => () => cancelAnimationFrame(waiting.current), []);
  useEffect(() => {
    corners.current = [];
  }, [props.selected]);
  useEffect(() => {
    draft.current = null;
    strokePixels.current = null;
  }, [props.tool, props.address]);
  useLayoutEffect(() => {
    drag.current = null;
    view.current = latest.current.startView;
    layer.current?.clear();
  }, [props.address]);
  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const measure = () => {
      const { clientWidth, clientHeight } = element;
      const ratio = window.devicePixelRatio || 1;
      room.current = { width: clientWidth, height: clientHeight };
      if (canvas.current) {
        canvas.current.width = Math.round(clientWidth * ratio);
        canvas.current.height = Math.round(clientHeight * ratio);
      }
      repaint();
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  // A wheel listener of React's cannot keep the page from scrolling.
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const { tool, brush, onBrush } = latest.current;
      const amount = event.deltaY || event.deltaX;
      if (event.shiftKey && paintsMasks(tool)) return onBrush(brush * Math.exp(-amount / 400));
      const bounds = element.getBoundingClientRect();
      setView(zoomAt(shownView(), Math.exp(-amount / 300), [event.clientX - bounds.left, event.clientY - bounds.top]));
    };
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => element.removeEventListener("wheel", onWheel);
  }, []);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.code !== "Space" || (event.target as HTMLElement).closest("input, textarea, button, [role=dialog]"))
        return;
      spaceHeld.current = event.type === "keydown";
      setHand(spaceHeld.current);
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    window.addEventListener("keyup", onKey);
    return () => {
      window.removeEventListener("keydown", onKey);
      window.removeEventListener("keyup", onKey);
    };
  }, []);

  const end = (shape: Shape | null, least: number) => {
    if (shape && !isAccident(shape, least)) latest.current.onDrawn(shape);
  };
  useImperativeHandle(handle, () => ({
    fit: () => setView(fittingView(latest.current.size, room.current)),
    fullSize: () => setView(fullSizeView(shownView(), room.current)),
    zoom: (factor) =>
      setView(zoomAt(shownView(), factor, pointer.current ?? [room.current.width / 2, room.current.height / 2])),
    show: (box) => setView(viewOfBox(box, room.current, Math.min(room.current.width, room.current.height) / 5)),
    finish: () => {
      const now = draft.current;
      if (!now) return false;
      draft.current = null;
      end(finished(now, latest.current.keypoints.length), 0.5);
      repaint();
      return true;
    },
    back: () => {
      if (!draft.current) return false;
      draft.current = stepBack(draft.current);
      repaint();
      return true;
    },
    cancel: () => {
      const was = draft.current !== null || drag.current !== null;
      draft.current = null;
      strokePixels.current = null;
      drag.current = null;
      repaint();
      return was;
    },
    skipPoint: () => {
      const { tool, keypoints } = latest.current;
      if (tool !== "keypoints" || draft.current?.of !== "keypoints") return false;
      const points = [...draft.current.points, { x: 0, y: 0, v: 0 as const }];
      draft.current = { ...draft.current, points };
      if (points.length >= keypoints.length) {
        const shape = finished(draft.current, keypoints.length);
        draft.current = null;
        end(shape, 0);
      }
      repaint();
      return true;
    },
    removeCorners: () => {
      const chosen = chosenObject();
      if (!chosen || corners.current.length === 0) return false;
      // From the last to the first, so that those before keep their numbers.
      const order = [...corners.current].sort(
        (a, b) => ("index" in b.grip ? b.grip.index : 0) - ("index" in a.grip ? a.grip.index : 0),
      );
      const left = order.reduce<Shape | null>((shape, { grip }) => shape && removeCorner(shape, grip), chosen.shape);
      corners.current = [];
      if (left) latest.current.onChanged([{ uid: chosen.uid, shape: left }]);
      return true;
    },
  }));

  const placeOf = (event: React.PointerEvent): Point => {
    const bounds = (frame.current as HTMLDivElement).getBoundingClientRect();
    return [event.clientX - bounds.left, event.clientY - bounds.top];
  };

  /** Pressing with the mending tool: at a grip, at an object, or over empty ground. */
  const takeHold = (at: Point, event: React.PointerEvent) => {
    const { selected, onSelect } = latest.current;
    const objects = pullable();
    const scale = shownView().scale;
    const distance = near.current / scale;
    const chosen = chosenObject();
    if (chosen) {
      const grips = gripsOf(chosen.shape, turnReach / scale);
      const grip = gripAt(grips, at[0], at[1], distance);
      if (grip) {
        const key = gripKey(grip.grip);
        const among = corners.current.some((one) => gripKey(one.grip) === key);
        if (event.shiftKey && (grip.grip.of === "corner" || grip.grip.of === "point")) {
          corners.current = among
            ? corners.current.filter((one) => gripKey(one.grip) !== key)
            : [...corners.current, grip];
          return repaint();
        }
        if (!among) corners.current = grip.grip.of === "corner" || grip.grip.of === "point" ? [grip] : [];
        drag.current = {
          of: "grip",
          uid: chosen.uid,
          shape: chosen.shape,
          grip,
          corners: among ? corners.current : [],
          from: at,
          now: chosen.shape,
        };
        return;
      }
    }
    const under =
      chosen && (holdsPoint(chosen.shape, at[0], at[1]) || isNearOutline(chosen.shape, at[0], at[1], distance))
        ? (objectAt(objects, at[0], at[1], distance) ?? chosen)
        : objectAt(objects, at[0], at[1], distance);
    corners.current = [];
    if (!under) {
      drag.current = { of: "frame", from: at, to: at, adds: event.shiftKey };
      return;
    }
    if (event.shiftKey) {
      const rest = [...selected].filter((uid) => uid !== under.uid);
      return onSelect(rest.length < selected.size ? rest : [...selected, under.uid]);
    }
    if (!selected.has(under.uid)) onSelect([under.uid]);
    const chosenNow = selected.has(under.uid) ? objects.filter(({ uid }) => selected.has(uid)) : [under];
    drag.current = { of: "move", objects: chosenNow, from: at, dx: 0, dy: 0 };
    putLayer();
  };

  /** What a brush goes over is shown pixel by pixel. */
  const followStroke = () => {
    const { tool, size, brush, colour } = latest.current;
    if (draft.current?.of !== "stroke" || (tool !== "brush" && tool !== "rub")) return;
    strokePixels.current ??= new StrokePixels(size, brush / 2, tool === "rub" ? "#1d201e" : colour);
    strokePixels.current.follow(draft.current.points);
  };

  const onPointerDown = (event: React.PointerEvent<HTMLDivElement>) => {
    event.currentTarget.focus({ preventScroll: true });
    event.currentTarget.setPointerCapture(event.pointerId);
    near.current = reach[event.pointerType] ?? reach.mouse;
    const place = placeOf(event);
    pointer.current = place;
    if (event.pointerType === "touch") {
      touches.current.set(event.pointerId, place);
      if (touches.current.size === 2) {
        // A second finger zooms and pans; what the first began is given up.
        const [a, b] = [...touches.current.values()] as [Point, Point];
        draft.current = draft.current?.of === "path" || draft.current?.of === "keypoints" ? draft.current : null;
        strokePixels.current = null;
        drag.current = {
          of: "pinch",
          distance: Math.hypot(a[0] - b[0], a[1] - b[1]),
          middle: [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2],
        };
        return;
      }
    }
    if (event.button === 1 || event.button === 2 || spaceHeld.current) {
      drag.current = { of: "pan", at: place };
      return;
    }
    const at = toImage(shownView(), place);
    const { tool, proposal, onFill, onSay } = latest.current;
    if (tool === "mend") takeHold(at, event);
    else if (tool === "propose" && proposal) onSay(at[0], at[1], !event.altKey);
    else if (tool === "fill") onFill(at[0], at[1]);
    else {
      const next = pressed(draft.current, tool, at, around(event.altKey), { shift: event.shiftKey });
      draft.current = next.draft;
      followStroke();
      end(next.done, 0.5);
    }
    repaint();
  };

  const onPointerMove = (event: React.PointerEvent<HTMLDivElement>) => {
    const place = placeOf(event);
    const before = pointer.current;
    pointer.current = place;
    const at = toImage(shownView(), place);
    latest.current.onPointer(at);
    if (touches.current.has(event.pointerId)) touches.current.set(event.pointerId, place);
    const now = drag.current;
    if (now?.of === "pinch") {
      const [a, b] = [...touches.current.values()];
      if (!a || !b) return;
      const distance = Math.hypot(a[0] - b[0], a[1] - b[1]);
      const middle: Point = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
      const panned = panBy(shownView(), middle[0] - now.middle[0], middle[1] - now.middle[1]);
      setView(zoomAt(panned, distance / Math.max(1, now.distance), middle));
      drag.current = { of: "pinch", distance, middle };
    } else if (now?.of === "pan") {
      setView(panBy(shownView(), place[0] - (before?.[0] ?? place[0]), place[1] - (before?.[1] ?? place[1])));
    } else if (now?.of === "grip") {
      const { shape, grip, from } = now;
      const [dx, dy] = pulledBy(grip, shape.kind, from, at, around(event.altKey));
      drag.current = {
        ...now,
        now:
          now.corners.length > 1
            ? moveCorners(shape, now.corners, dx, dy)
            : dragGrip(shape, grip.grip, grip.x + dx, grip.y + dy, event.shiftKey ? Math.PI / 12 : 0),
      };
    } else if (now?.of === "move") {
      drag.current = { ...now, dx: at[0] - now.from[0], dy: at[1] - now.from[1] };
    } else if (now?.of === "frame") {
      drag.current = { ...now, to: at };
    } else if (draft.current) {
      const held = event.buttons === 1;
      // The pointer is asked more often than the screen is painted: every place on the way counts for what is drawn.
      const between = held ? (event.nativeEvent.getCoalescedEvents?.() ?? []) : [];
      const bounds = (frame.current as HTMLDivElement).getBoundingClientRect();
      const places = between.map(({ clientX, clientY }) =>
        toImage(shownView(), [clientX - bounds.left, clientY - bounds.top]),
      );
      for (const one of [...places, at])
        draft.current = moved(draft.current, latest.current.tool, one, held, around(event.altKey));
      followStroke();
    }
    repaint();
  };

  const onPointerUp = (event: React.PointerEvent<HTMLDivElement>) => {
    touches.current.delete(event.pointerId);
    const now = drag.current;
    drag.current = null;
    const { objects, size, selected, tool, brush, onSelect, onChanged, onStroke } = latest.current;
    if (now?.of === "grip" && now.now !== now.shape) onChanged([{ uid: now.uid, shape: now.now }]);
    else if (now?.of === "move" && Math.hypot(now.dx, now.dy) * shownView().scale >= 2)
      onChanged(now.objects.map(({ uid, shape }) => ({ uid, shape: moveShape(shape, now.dx, now.dy, size) })));
    else if (now?.of === "move" && selected.size > 1 && !event.shiftKey) {
      const under = objectAt(objects, now.from[0], now.from[1], near.current / shownView().scale);
      if (under) onSelect([under.uid]);
    } else if (now?.of === "frame") {
      const within = objectsWithin(objects, boxBetween(now.from, now.to)).map(({ uid }) => uid);
      onSelect(now.adds ? [...new Set([...selected, ...within])] : within);
    } else if (!now && draft.current?.of === "stroke") {
      const { points } = draft.current;
      draft.current = null;
      strokePixels.current = null;
      onStroke({ tool, points, radius: brush / 2, take: !event.altKey });
    } else if (!now && draft.current) {
      const next = released(draft.current, around(event.altKey));
      draft.current = next.draft;
      end(next.done, 0.5);
    }
    repaint();
  };

  return (
    <div
      ref={frame}
      role="application"
      aria-label="The picture with its objects"
      aria-roledescription="drawing surface"
      tabIndex={0}
      className="relative min-h-0 flex-1 touch-none overflow-hidden outline-none select-none"
      style={{ cursor: hand ? "grab" : props.tool === "mend" ? "default" : "crosshair" }}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={() => {
        touches.current.clear();
        drag.current = null;
        draft.current = null;
        strokePixels.current = null;
        repaint();
      }}
      onPointerLeave={() => {
        pointer.current = null;
        latest.current.onPointer(null);
        repaint();
      }}
      onContextMenu={(event) => event.preventDefault()}
    >
      <img
        ref={image}
        src={props.address}
        alt=""
        draggable={false}
        className="pointer-events-none absolute top-0 left-0 max-w-none origin-top-left"
        style={{ filter: props.filter, width: props.size.width, height: props.size.height }}
      />
      <canvas
        ref={layerCanvas}
        className="pointer-events-none absolute top-0 left-0 origin-top-left"
        style={{ opacity: props.opacity, display: props.bare ? "none" : "block" }}
        aria-hidden="true"
      />
      <canvas ref={canvas} className="pointer-events-none absolute inset-0 size-full" aria-hidden="true" />
    </div>
  );
});
