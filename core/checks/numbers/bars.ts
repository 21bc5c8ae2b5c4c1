/** Counts side by side, each with what shows the images behind it. */
import { quote } from "../../selection/tokens";

export type Bar = {
  label: string;
  count: number;
  /** The selection that means the images that were counted; null where none does. */
  where: string | null;
  /** Where none does, the first of the images, by their ids. */
  only?: number[];
};

/** As many images are named where no selection means them. */
const mostNamed = 200;

/** Bars between edges, each from its lower edge to below its upper one; the first and the last are open. */
export class Histogram {
  private readonly counts: number[];
  private readonly images: Set<number>[];
  constructor(private readonly edges: readonly number[]) {
    this.counts = Array.from({ length: edges.length + 1 }, () => 0);
    this.images = this.counts.map(() => new Set());
  }
  /** `image`: the id of the image it comes from. */
  add(value: number, image: number): void {
    let bin = 0;
    while (bin < this.edges.length && value >= (this.edges[bin] as number)) bin++;
    this.counts[bin] = (this.counts[bin] as number) + 1;
    const images = this.images[bin] as Set<number>;
    if (images.size < mostNamed) images.add(image);
  }
  bars(label: (edge: number) => string, where: ((from: number | null, to: number | null) => string) | null): Bar[] {
    return this.counts.map((count, bin) => {
      const [from, to] = [this.edges[bin - 1] ?? null, this.edges[bin] ?? null];
      const words =
        from === null
          ? `under ${label(to ?? 0)}`
          : to === null
            ? `${label(from)} and more`
            : `${label(from)} to ${label(to)}`;
      return {
        label: words,
        count,
        ...(where ? { where: where(from, to) } : shownBy(this.images[bin] as Set<number>)),
      };
    });
  }
}

const shownBy = (images: ReadonlySet<number>) => ({ where: null, only: [...images] });

/** Things counted by name, with the images they are on where no selection means those. */
export class Counts {
  private readonly counts = new Map<string, { count: number; images: Set<number> }>();
  add(name: string, image: number): void {
    const entry = this.counts.get(name) ?? { count: 0, images: new Set<number>() };
    this.counts.set(name, entry);
    entry.count++;
    if (entry.images.size < mostNamed) entry.images.add(image);
  }
  get size(): number {
    return this.counts.size;
  }
  /** The most frequent, most frequent first; `where` gives the selection of each, none where it is left out. */
  mostFrequent(most: number, where?: (name: string) => string): Bar[] {
    return [...this.counts]
      .sort((a, b) => b[1].count - a[1].count || (a[0] < b[0] ? -1 : 1))
      .slice(0, most)
      .map(([label, { count, images }]) => ({ label, count, ...(where ? { where: where(label) } : shownBy(images)) }));
  }
  /** Those of some names, in their order. */
  of(names: readonly string[]): Bar[] {
    return names.map((label) => {
      const { count, images } = this.counts.get(label) ?? { count: 0, images: new Set<number>() };
      return { label, count, ...shownBy(images) };
    });
  }
}

/** A condition on objects between two edges. */
export const between =
  (field: string, value: (edge: number) => string) =>
  (from: number | null, to: number | null): string =>
    `has any (${[from === null ? "" : `${field} >= ${value(from)}`, to === null ? "" : `${field} < ${value(to)}`].filter(Boolean).join(", ")})`;

/** An attribute that has a value, as a condition. */
export const attributeIs = (name: string, value: string): string => `field ${quote(name)} = ${quote(value)}`;
