/** What is in a stock, in numbers: every bar and cell with the selection that means it. */
import { quote } from "../../selection/tokens";
import { eachObject, type CheckedStock } from "../check";
import { attributeNumbers, keypointNumbers, type AttributeNumbers, type KeypointNumbers } from "./attribute-numbers";
import { between, Counts, Histogram, type Bar } from "./bars";
import { lightNumbers, type LightNumbers } from "./light-numbers";

/** Which classes occur on one image: how many images hold both, by the places of the classes in `names`. */
export type Together = { names: string[]; images: number[][] };
/** Where objects of a class have their middles: counts over a grid of the picture, row by row. */
export type HeatMap = { name: string; columns: number; rows: number; counts: number[] };
export type DeliveryNumbers = {
  name: string;
  images: number;
  objects: number;
  shares: { name: string; share: number }[];
};

export type StockNumbers = LightNumbers & {
  attributes: AttributeNumbers[];
  keypoints: KeypointNumbers[];
  objectsAnImage: Bar[];
  /** Sides of squares as large as the objects, in pixels of the image as it is. */
  sides: Bar[];
  /** The same once the longer edge of the image is `longEdge` pixels: as a trainer sees them. */
  seenSides: Bar[];
  longEdge: number;
  shares: Bar[];
  ratios: Bar[];
  imageSizes: Bar[];
  orientations: Bar[];
  days: Bar[];
  together: Together;
  heatMaps: HeatMap[];
  deliveries: DeliveryNumbers[];
};

const mostObjectsShown = 15;
const mostSizesShown = 12;
const mostDaysShown = 31;
/** As many classes stand side by side, those with the most objects. */
const mostClassesShown = 20;
const grid = { columns: 12, rows: 9 };

const counted = <K>(counts: Map<K, number>, key: K) => counts.set(key, (counts.get(key) ?? 0) + 1);

/** Classes by their objects, most first, with their indexes in the snapshot. */
function classesShown({ snapshot, tallies }: CheckedStock): { name: string; index: number }[] {
  const ids = new Map(snapshot.classes.map(({ id, name }) => [name, id]));
  return tallies
    .filter(({ objects }) => objects > 0)
    .sort((a, b) => b.objects - a.objects)
    .slice(0, mostClassesShown)
    .map(({ name }) => ({ name, index: snapshot.classIndex(ids.get(name) ?? 0) }));
}

function imageNumbers({ snapshot, slots }: CheckedStock) {
  const { width, height, objectCount } = snapshot;
  const objects = Array.from({ length: mostObjectsShown + 1 }, () => 0);
  const [sizes, days] = [new Counts(), new Counts()];
  const orientations = { upright: 0, square: 0, lying: 0 };
  for (const slot of slots) {
    const bin = Math.min(mostObjectsShown, objectCount.at(slot));
    objects[bin] = (objects[bin] as number) + 1;
    const [w, h] = [width.at(slot), height.at(slot)];
    sizes.add(`${w} × ${h}`, snapshot.ids.at(slot));
    orientations[w < h ? "upright" : w > h ? "lying" : "square"]++;
    const day = snapshot.days.textOf(snapshot.day.at(slot));
    if (day !== "") days.add(day, snapshot.ids.at(slot));
  }
  return {
    objectsAnImage: objects.map((count, n) => ({
      label: n === mostObjectsShown ? `${n} and more` : String(n),
      count,
      where: n === mostObjectsShown ? `objects >= ${n}` : `objects = ${n}`,
    })),
    imageSizes: sizes.mostFrequent(mostSizesShown, (label) => {
      const [w, h] = label.split(" × ");
      return `width = ${w} and height = ${h}`;
    }),
    orientations: [
      { label: "upright", count: orientations.upright, where: "ratio < 1" },
      { label: "square", count: orientations.square, where: "ratio = 1" },
      { label: "lying", count: orientations.lying, where: "ratio > 1" },
    ],
    days: days.mostFrequent(mostDaysShown, (day) => `taken = ${day}`).sort((a, b) => (a.label < b.label ? -1 : 1)),
  };
}

function objectNumbers({ snapshot, slots }: CheckedStock, longEdge: number) {
  const sideEdges = [4, 8, 16, 32, 64, 128, 256, 512, 1024];
  const [sides, seen] = [new Histogram(sideEdges), new Histogram(sideEdges)];
  const shares = new Histogram([0.0003, 0.001, 0.003, 0.01, 0.03, 0.1, 0.3]);
  const ratios = new Histogram([0.25, 0.5, 0.8, 1.25, 2, 4]);
  for (const slot of slots) {
    const [w, h] = [snapshot.width.at(slot), snapshot.height.at(slot)];
    eachObject(snapshot, slot, (object) => {
      const area = snapshot.area.at(object);
      sides.add(Math.sqrt(area), snapshot.ids.at(slot));
      seen.add((Math.sqrt(area) * longEdge) / Math.max(1, w, h), snapshot.ids.at(slot));
      shares.add(area / Math.max(1, w * h), snapshot.ids.at(slot));
      if (snapshot.boxHeight.at(object) > 0)
        ratios.add(snapshot.boxWidth.at(object) / snapshot.boxHeight.at(object), snapshot.ids.at(slot));
    });
  }
  const percent = (edge: number) => `${Number((edge * 100).toPrecision(6))}%`;
  return {
    sides: sides.bars(
      (edge) => `${edge} px`,
      between("area", (edge) => String(edge * edge)),
    ),
    seenSides: seen.bars((edge) => `${edge} px`, null),
    shares: shares.bars(percent, between("share", percent)),
    ratios: ratios.bars(
      (edge) => String(edge),
      between("ratio", (edge) => String(edge)),
    ),
  };
}

function classNumbers(stock: CheckedStock): { together: Together; heatMaps: HeatMap[] } {
  const { snapshot, slots } = stock;
  const shown = classesShown(stock);
  const placeOf = new Map(shown.map(({ index }, place) => [index, place]));
  const images = shown.map(() => shown.map(() => 0));
  const maps = shown.map(() => new Array<number>(grid.columns * grid.rows).fill(0));
  const cell = (share: number, count: number) => Math.min(count - 1, Math.max(0, Math.floor(share * count)));
  for (const slot of slots) {
    const here = new Set<number>();
    eachObject(snapshot, slot, (object) => {
      const place = placeOf.get(snapshot.objectClass.at(object));
      if (place === undefined) return;
      here.add(place);
      const x = (snapshot.x.at(object) + snapshot.boxWidth.at(object) / 2) / Math.max(1, snapshot.width.at(slot));
      const y = (snapshot.y.at(object) + snapshot.boxHeight.at(object) / 2) / Math.max(1, snapshot.height.at(slot));
      const at = cell(y, grid.rows) * grid.columns + cell(x, grid.columns);
      const map = maps[place] as number[];
      map[at] = (map[at] as number) + 1;
    });
    for (const a of here) for (const b of here) (images[a] as number[])[b] = (images[a]?.[b] as number) + 1;
  }
  return {
    together: { names: shown.map(({ name }) => name), images },
    heatMaps: shown.map(({ name }, place) => ({ name, ...grid, counts: maps[place] as number[] })),
  };
}

function deliveryNumbers(stock: CheckedStock): DeliveryNumbers[] {
  const { snapshot, slots } = stock;
  const shown = classesShown(stock);
  const byIndex = new Map<number, { images: number; objects: number; classes: Map<number, number> }>();
  for (const slot of slots) {
    const index = snapshot.delivery.at(slot);
    const entry = byIndex.get(index) ?? { images: 0, objects: 0, classes: new Map<number, number>() };
    byIndex.set(index, entry);
    entry.images++;
    eachObject(snapshot, slot, (object) => {
      entry.objects++;
      counted(entry.classes, snapshot.objectClass.at(object));
    });
  }
  const names = new Map(snapshot.deliveries.map(({ id, name }) => [id, name]));
  return [...byIndex].map(([index, { images, objects, classes }]) => ({
    name: names.get(snapshot.deliveryIds[index] ?? 0) ?? "",
    ...{ images, objects },
    shares: shown.map(({ name, index: of }) => ({ name, share: (classes.get(of) ?? 0) / Math.max(1, objects) })),
  }));
}

/** All numbers of a stock; `longEdge`: the longer edge of an image as a trainer sees it, in pixels. */
export function stockNumbers(stock: CheckedStock, longEdge: number): StockNumbers {
  return {
    ...imageNumbers(stock),
    ...lightNumbers(stock),
    attributes: attributeNumbers(stock),
    keypoints: keypointNumbers(stock),
    ...objectNumbers(stock, longEdge),
    ...classNumbers(stock),
    longEdge,
    deliveries: deliveryNumbers(stock),
  };
}

/** The selection that means the images with an object of a class in a cell of its heat map. */
export function cellSelection({ name, columns, rows }: HeatMap, at: number): string {
  const [column, row] = [at % columns, Math.floor(at / columns)];
  const share = (value: number) => Number(value.toFixed(4));
  // The last cell holds what lies on the border, and beyond it.
  const range = (field: string, place: number, count: number) =>
    [
      place === 0 ? "" : `${field} >= ${share(place / count)}`,
      place === count - 1 ? "" : `${field} < ${share((place + 1) / count)}`,
    ].filter(Boolean);
  const conditions = [...range("x", column, columns), ...range("y", row, rows)].join(", ");
  return `has ${quote(name)} (${conditions})`;
}
