/**
 * What a plan prepares of an image: one frame of it, or one for each tile. Crop and tile cut whole pixels of the upright
 * picture; what they cut away never comes back. Resizing then maps the cut onto the frame, edge on edge.
 */
import { compose, scaling, translation, type Matrix } from "../geometry/transform";
import { Failure } from "../model/failure";
import type { Size } from "../model/item";
import type { Box } from "../model/shape";
import type { Plan, Resize, Tiles } from "../plans/plan";

export type TilePlace = { row: number; column: number };
export type Frame = {
  tile: TilePlace | null;
  /** The part of the upright picture that is seen, in whole pixels. */
  region: Box;
  /** The parts that are cut one after the other, each in pixels of the upright picture; the last is `region`. */
  cuts: readonly Box[];
  /** From the upright picture to the frame. */
  matrix: Matrix;
  /** The frame's size, and the part of it that the picture fills, in whole pixels. */
  size: Size;
  content: Box;
};

const whole = ({ width, height }: Size): Box => ({ x: 0, y: 0, width, height });

function cropped(size: Size, { left, top, right, bottom }: Plan["prepare"]["crop"]): Box {
  const side = (length: number, before: number, after: number): [number, number] => {
    const from = Math.min(length - 1, Math.round(length * before));
    return [from, Math.max(from + 1, Math.round(length * (1 - after)))];
  };
  const [x, toX] = side(size.width, left, right);
  const [y, toY] = side(size.height, top, bottom);
  return { x, y, width: toX - x, height: toY - y };
}

type Stretch = { from: number; to: number };

/** Equal parts of a length, each overlapping the next by a share of itself, or by pixels from 1 on. */
function equalParts(length: number, count: number, overlap: number): Stretch[] {
  const part =
    overlap < 1 ? length / (count - (count - 1) * overlap) : Math.min(length, (length + (count - 1) * overlap) / count);
  const step = count > 1 ? (length - part) / (count - 1) : 0;
  return Array.from({ length: count }, (_, n) => ({
    from: Math.round(n * step),
    to: Math.min(length, Math.round(n * step + part)),
  }));
}

/** Parts of a fixed length; the last ends at the end. */
function fixedParts(length: number, part: number, overlap: number): Stretch[] {
  if (part >= length) return [{ from: 0, to: length }];
  const step = Math.max(1, Math.round(overlap < 1 ? part * (1 - overlap) : part - overlap));
  const count = Math.ceil((length - part) / step) + 1;
  return Array.from({ length: count }, (_, n) => {
    const from = Math.min(n * step, length - part);
    return { from, to: from + part };
  });
}

/** Tiles of fewer pixels than this on a side hold nothing worth a picture. */
const leastTile = 4;

function tilesOf(size: Size, tiles: Tiles): { place: TilePlace; box: Box }[] {
  const fixed = "width" in tiles;
  const columns = fixed
    ? fixedParts(size.width, tiles.width, tiles.overlap)
    : equalParts(size.width, tiles.columns, tiles.overlap);
  const rows = fixed
    ? fixedParts(size.height, tiles.height, tiles.overlap)
    : equalParts(size.height, tiles.rows, tiles.overlap);
  const small = [...columns, ...rows].find(({ from, to }) => to - from < leastTile);
  if (small && size.width >= leastTile && size.height >= leastTile)
    throw new Failure(
      "tiles-small",
      `Tiles of an image of ${size.width} × ${size.height} would be ${small.to - small.from} px. Ask for fewer.`,
    );
  return rows.flatMap((row, r) =>
    columns.map((column, c) => ({
      place: { row: r, column: c },
      box: { x: column.from, y: row.from, width: column.to - column.from, height: row.to - row.from },
    })),
  );
}

/** How many frames a plan makes of an image of this size. */
export function frameCount(size: Size, prepare: Plan["prepare"]): number {
  return prepare.tiles ? tilesOf(cropped(size, prepare.crop), prepare.tiles).length : 1;
}

const rounded = (value: number) => Math.max(1, Math.round(value));

/** Where a cut goes in its frame: what of it is kept (in its own pixels), the frame's size, and the part it fills. */
function placed(cut: Size, resize: Resize | null): { kept: Box; size: Size; content: Box } {
  if (!resize) return { kept: whole(cut), size: cut, content: whole(cut) };
  const { mode, width, height, larger } = resize;
  const limit = (factor: number) => (larger ? factor : Math.min(1, factor));
  const scaled = (factor: number): Size => ({
    width: rounded(cut.width * factor),
    height: rounded(cut.height * factor),
  });
  switch (mode) {
    case "stretch": {
      const size = larger
        ? { width, height }
        : { width: Math.min(width, cut.width), height: Math.min(height, cut.height) };
      return { kept: whole(cut), size, content: whole(size) };
    }
    case "fit":
    case "longest": {
      const factor =
        mode === "fit"
          ? limit(Math.min(width / cut.width, height / cut.height))
          : limit(width / Math.max(cut.width, cut.height));
      const size = scaled(factor);
      return { kept: whole(cut), size, content: whole(size) };
    }
    case "pad": {
      const inner = scaled(limit(Math.min(width / cut.width, height / cut.height)));
      const content = {
        x: Math.floor((width - inner.width) / 2),
        y: Math.floor((height - inner.height) / 2),
        ...inner,
      };
      return { kept: whole(cut), size: { width, height }, content };
    }
    case "fill": {
      const ratio = Math.min(cut.width / width, cut.height / height);
      const kept = {
        width: Math.min(cut.width, rounded(width * ratio)),
        height: Math.min(cut.height, rounded(height * ratio)),
      };
      const factor = limit(1 / ratio);
      const size =
        factor < 1 / ratio
          ? { width: rounded(kept.width * factor), height: rounded(kept.height * factor) }
          : { width, height };
      const x = Math.floor((cut.width - kept.width) / 2);
      const y = Math.floor((cut.height - kept.height) / 2);
      return { kept: { x, y, ...kept }, size, content: whole(size) };
    }
  }
}

const isSame = (a: Box, b: Box) => a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height;

/** The frames that a plan prepares of an image of this upright size, row by row. */
export function framesOf(size: Size, prepare: Plan["prepare"]): Frame[] {
  const crop = cropped(size, prepare.crop);
  const tiles = prepare.tiles ? tilesOf(crop, prepare.tiles) : [{ place: null, box: whole(crop) }];
  return tiles.map(({ place, box }) => {
    const cut = { ...box, x: crop.x + box.x, y: crop.y + box.y };
    const { kept, size: frame, content } = placed({ width: cut.width, height: cut.height }, prepare.resize);
    const region = { ...kept, x: cut.x + kept.x, y: cut.y + kept.y };
    const scaled = compose(
      translation(-region.x, -region.y),
      scaling(content.width / region.width, content.height / region.height),
    );
    return {
      tile: place,
      region,
      cuts: [crop, cut, region].filter((part, at, all) => !isSame(part, at === 0 ? whole(size) : (all[at - 1] as Box))),
      matrix: compose(scaled, translation(content.x, content.y)),
      size: frame,
      content,
    };
  });
}
