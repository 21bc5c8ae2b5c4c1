/** A plan's first step on a light stock: which images it lets through, and why the others leave. */
import { uniform } from "../model/seeded";
import { dealInto } from "../splitting/deal";
import type { LightStock } from "../stock/light-stock";
import { holdingsOf } from "./holdings";
import type { Plan } from "./plan";

export type SelectedImages = {
  /** Places in the stock, ascending. */
  images: Uint32Array;
  /** Classes under the floor: their labels leave. */
  dropped: Set<string>;
  /** Of each image that leaves the rule that did it, by its place. */
  left: Map<number, string>;
};

/** Of each class how many of these images hold it. */
function imagesOfClasses({ names, starts, classOf }: LightStock, images: readonly number[]): Uint32Array {
  const counts = new Uint32Array(names.length);
  for (const n of images)
    for (let at = starts.at(n); at < starts.at(n + 1); at++) {
      const index = classOf.at(at);
      counts[index] = (counts[index] as number) + 1;
    }
  return counts;
}

/** The images in the order that the seed draws for each. */
function inDrawnOrder({ keys }: LightStock, images: readonly number[], word: string, seed: number): number[] {
  return images
    .map((n) => ({ n, draw: uniform(word, seed, keys[n] as string) }))
    .sort((a, b) => a.draw - b.draw || ((keys[a.n] as string) < (keys[b.n] as string) ? -1 : 1))
    .map(({ n }) => n);
}

/** `means` says of each image by its place whether `where` means it; null where that is everything. */
export function selectImages(
  stock: LightStock,
  { select, seed }: Pick<Plan, "select" | "seed">,
  means: ((n: number) => boolean) | null,
): SelectedImages {
  const states = new Set(select.states);
  const left = new Map<number, string>();
  let images: number[] = [];
  for (let n = 0; n < stock.length; n++) {
    const state = stock.states[n] as (typeof select.states)[number];
    if (means && !means(n)) left.set(n, "where: the selection does not mean it");
    else if (!states.has(state)) left.set(n, `states: it is ${state}`);
    else images.push(n);
  }
  const dropped = new Set<string>();
  if (select.floor > 0) {
    const counts = imagesOfClasses(stock, images);
    stock.names.forEach((name, index) => {
      if ((counts[index] as number) < select.floor && (counts[index] as number) > 0) dropped.add(name);
    });
  }
  if (select.cap) images = capped(stock, images, { ...select.cap, seed, dropped, left });
  if (select.sample > 0 && select.sample < images.length) {
    const { keys } = stock;
    const bins = dealInto(holdingsOf(stock, images), {
      sizes: [select.sample, images.length - select.sample],
      seed,
      evenly: true,
      groups: null,
    });
    images = images.filter((n, at) => {
      if (bins[at] === 0) return true;
      left.set(n, `sample: ${select.sample} others of ${keys.length} were drawn`);
      return false;
    });
  }
  return { images: Uint32Array.from(images).sort(), dropped, left };
}

type Capping = {
  images: number;
  classes: readonly string[];
  seed: number;
  dropped: ReadonlySet<string>;
  left: Map<number, string>;
};

/** In drawn order, without those that hold a class that is full already. */
function capped(stock: LightStock, images: readonly number[], capping: Capping): number[] {
  const { names, starts, classOf } = stock;
  const named = new Set(capping.classes);
  const counts = names.map((name) =>
    (named.size === 0 || named.has(name)) && !capping.dropped.has(name) ? 0 : Number.NEGATIVE_INFINITY,
  );
  return inDrawnOrder(stock, images, "cap", capping.seed).filter((n) => {
    for (let at = starts.at(n); at < starts.at(n + 1); at++) {
      const index = classOf.at(at);
      if ((counts[index] as number) < capping.images) continue;
      capping.left.set(n, `cap: ${names[index]} has its ${capping.images} images already`);
      return false;
    }
    for (let at = starts.at(n); at < starts.at(n + 1); at++) {
      const index = classOf.at(at);
      counts[index] = (counts[index] as number) + 1;
    }
    return true;
  });
}
