/** What is truly in a scene: outlines, boxes, attributes and keypoints, in pixels of the picture. */
import { boundsOfPoints, clipBox, boxArea } from "@larder/core/geometry/box";
import { clipRing, signedRingArea } from "@larder/core/geometry/polygon";
import type { LabeledObject } from "@larder/core/model/item";
import type { Box, Keypoint } from "@larder/core/model/shape";
import { breadForm } from "./breads/forms";
import { frame, type PlacedBread, type Scene } from "./scene";

export type TrueBread = { kind: string; bake: string; outline: number[]; box: Box; keypoints: Keypoint[] | null };

function placed(bread: PlacedBread, scene: Scene, local: readonly number[]): number[] {
  const cos = Math.cos(bread.angle) * bread.scale;
  const sin = Math.sin(bread.angle) * bread.scale;
  const out: number[] = [];
  for (let i = 0; i + 1 < local.length; i += 2) {
    const u = local[i] as number;
    const v = local[i + 1] as number;
    out.push(bread.x + scene.shift.x + u * cos - v * sin, bread.y + scene.shift.y + u * sin + v * cos);
  }
  return out;
}

/** Hundredths of a pixel are as exact as a label needs to be, and keep the files short. */
function hundredths(value: number): number {
  return Math.round(value * 100) / 100;
}

/** The breads that show, clipped to the picture; one of which less than a tenth shows is not labeled. */
export function trueBreads(scene: Scene): TrueBread[] {
  return scene.breads.flatMap((bread) => {
    const form = breadForm(bread.kind, bread.bake, bread.seed);
    const whole = placed(bread, scene, form.outline());
    const bounds = boundsOfPoints(whole);
    if (!bounds) return [];
    const outline = bread.kind === "pretzel" ? [] : clipRing(whole, frame.width, frame.height).map(hundredths);
    const shown = outline.length >= 6 ? boundsOfPoints(outline) : clipBox(bounds, frame.width, frame.height);
    if (!shown || boxArea(shown) < boxArea(bounds) * 0.1) return [];
    if (outline.length >= 6 && Math.abs(signedRingArea(outline)) < 200) return [];
    const places = form.keypoints ? placed(bread, scene, form.keypoints()) : null;
    const keypoints = places
      ? Array.from({ length: places.length / 2 }, (_, i): Keypoint => {
          const x = hundredths(places[2 * i] as number);
          const y = hundredths(places[2 * i + 1] as number);
          const inside = x >= 0 && y >= 0 && x <= frame.width && y <= frame.height;
          return inside ? { x, y, v: 2 } : { x: 0, y: 0, v: 0 };
        })
      : null;
    const left = hundredths(shown.x);
    const top = hundredths(shown.y);
    const box = {
      x: left,
      y: top,
      width: hundredths(shown.x + shown.width - left),
      height: hundredths(shown.y + shown.height - top),
    };
    return [
      {
        kind: bread.kind,
        bake: bread.bake,
        outline,
        box,
        keypoints: keypoints?.some((p) => p.v > 0) ? keypoints : null,
      },
    ];
  });
}

/** A true bread as a label: its outline where there is one, keypoints on pretzels. */
export function asObject(bread: TrueBread): LabeledObject {
  return {
    class: bread.kind,
    shape: bread.keypoints
      ? { kind: "keypoints", points: bread.keypoints, box: bread.box }
      : bread.outline.length >= 6
        ? { kind: "polygon", parts: [[bread.outline]] }
        : { kind: "box", ...bread.box },
    attributes: { bake: bread.bake },
  };
}
