/** A source as a plan takes it: its images by the hash of their bytes, each once, with what select and split ask of them. */
import type { Format, Options } from "@larder/core/formats/format";
import { openPicture } from "@larder/core/formats/open-picture";
import { Failure } from "@larder/core/model/failure";
import { baseName, type FileTree } from "@larder/core/model/file-tree";
import { Findings } from "@larder/core/model/finding";
import type { ClassInfo } from "@larder/core/model/item";
import { sha256, hexOf } from "@larder/core/model/sha256";
import { runFlow, type Flow } from "@larder/core/plans/flow";
import type { Plan } from "@larder/core/plans/plan";
import { selectableObject } from "@larder/core/relabel/relabeling";
import { lightStock, type StockRow } from "@larder/core/stock/light-stock";
import type { StockFacts } from "@larder/core/stock/stock-facts";
import type { StockImage } from "@larder/core/versions/version-lines";
import { thumbnailAndNearHash } from "@larder/server/pixels/thumbnail";
import { settings } from "@larder/server/settings";
import type { CheckedSource } from "./checked-source";
import { ItemShelf } from "./item-shelf";
import { nearCopiesOf } from "./near-copies-of";
import { settledItems } from "./settled-items";
import { whereTest } from "./where";

type Row = StockRow & {
  path: string;
  width: number;
  height: number;
  taken: number;
  means: boolean;
  fields: Record<string, string | string[]>;
  nearHash: string | null;
};

export class PlannedSource {
  readonly classes: ClassInfo[];
  readonly images: number;
  readonly objects: number;

  private constructor(
    private readonly tree: FileTree,
    private readonly shelf: ItemShelf,
    private readonly rows: readonly Row[],
    classes: ClassInfo[],
    private readonly attributes: ReadonlySet<string>,
  ) {
    this.classes = classes;
    this.images = rows.length;
    this.objects = rows.reduce((sum, { objects }) => [...objects.values()].reduce((all, count) => all + count, sum), 0);
  }

  /** Reads a source through once. Of several pictures with the same bytes the first by its path counts. */
  static async read(
    tree: FileTree,
    format: Format,
    {
      options,
      plan,
      report,
      step,
      checked = null,
    }: {
      options: Options;
      plan: Plan;
      report: Findings;
      step: () => void;
      /** Takes the same images in, for checks. */
      checked?: CheckedSource | null;
    },
  ): Promise<PlannedSource> {
    const { pixels } = settings().limits;
    const reading = await format.read(tree, options, report);
    const { where } = plan.select;
    const means = where.trim() === "" ? null : await whereTest(where, () => format.read(tree, options, new Findings()));
    const near = plan.split.together.includes("near-copies");
    const shelf = new ItemShelf();
    try {
      const rows = new Map<string, Row>();
      const attributes = new Set<string>();
      for await (const settled of settledItems(tree, reading, pixels, report, options)) {
        step();
        const { item, facts, bytes, findings } = settled;
        if (!facts || !bytes) continue;
        const key = hexOf(sha256(bytes));
        const before = rows.get(key);
        if (before) report.add("copy-in-delivery", before.path < item.path ? item.path : before.path);
        if (before && before.path < item.path) continue;
        const { width, height, orientation, extension, taken } = facts;
        shelf.put(key, { ...item, width, height, orientation, extension });
        const objects = new Map<string, number>();
        for (const object of item.objects) {
          objects.set(object.class, (objects.get(object.class) ?? 0) + 1);
          for (const name of Object.keys(object.attributes ?? {})) attributes.add(name);
        }
        rows.set(key, {
          key,
          path: item.path,
          delivery: 0,
          split: item.split,
          state: item.state,
          objects,
          classes: item.classes,
          width,
          height,
          taken: taken.takenAt ? Date.parse(`${taken.takenAt}Z`) : Number.NaN,
          means: means === null || means({ item, facts, bytes, findings }),
          fields: item.fields,
          nearHash: checked
            ? await checked.add(settled)
            : near
              ? (await thumbnailAndNearHash(bytes, pixels)).nearHash
              : null,
        });
      }
      checked?.keepOnly(new Map(Array.from(rows.values(), (row) => [row.key, row.path])));
      const sorted = [...rows.values()].sort((a, b) => (a.key < b.key ? -1 : 1));
      return new PlannedSource(tree, shelf, sorted, reading.classes, attributes);
    } catch (error) {
      shelf.close();
      throw error;
    }
  }

  private facts(): StockFacts {
    const row = (n: number) => this.rows[n] as Row;
    const near = this.nearCopies();
    return {
      name: (n) => row(n).path,
      size: (n) => row(n),
      taken: (n) => row(n).taken,
      camera: () => "",
      attribute: (n, name) => {
        const value = Object.hasOwn(row(n).fields, name) ? row(n).fields[name] : undefined;
        return value === undefined ? null : [value].flat().join(", ");
      },
      nearCopies: (n) => near.get(n) ?? [],
    };
  }

  private nearCopies(): Map<number, number[]> {
    const hashes = this.rows.flatMap(({ nearHash }) => nearHash ?? []);
    return hashes.length < this.rows.length ? new Map<number, number[]>() : nearCopiesOf(hashes);
  }

  /** The plan run on it. */
  flow(plan: Plan): Flow {
    const { together } = plan.split;
    if (together.includes("delivery") || together.includes("camera"))
      throw new Failure(
        "plan-application",
        "Deliveries and cameras are known in the application alone. Hold images together by day, name, attribute or near-copies.",
      );
    return runFlow(
      {
        stock: lightStock(this.rows),
        facts: this.facts(),
        objectsOf: (n) => this.shelf.get((this.rows[n] as Row).key).objects.map(selectableObject),
        classNames: this.classes.map(({ name }) => name),
        attributes: { image: [], object: this.attributes },
        means: plan.select.where.trim() === "" ? null : (n) => (this.rows[n] as Row).means,
        like: null,
      },
      plan,
    );
  }

  /** An image with its labels as they are in the source. */
  load(key: string): StockImage {
    const { path, width, height, orientation, extension, licence, ...labels } = this.shelf.get(key);
    const { state, split, objects, classes, captions, fields } = labels;
    return {
      key,
      name: path,
      size: { width, height },
      orientation,
      extension,
      state,
      split,
      objects,
      classes,
      captions,
      fields,
      licence: licence ?? null,
    };
  }

  /** The images of some hashes, in this order. */
  async *stockImages(keys: Iterable<string>): AsyncGenerator<StockImage> {
    for (const key of keys) yield await Promise.resolve(this.load(key));
  }

  /** The bytes of a picture. */
  bytes(key: string): Promise<Uint8Array> {
    return openPicture(this.tree, this.shelf.get(key));
  }

  /** Hashes of images that go by a name: their path, or its base name. */
  keysNamed(name: string): string[] {
    return this.rows.flatMap(({ key, path }) => (path === name || baseName(path) === name ? [key] : []));
  }

  /** The hashes of all images, ascending. */
  keys(): string[] {
    return this.rows.map(({ key }) => key);
  }

  get scratch(): string {
    return this.shelf.scratch;
  }

  close(): void {
    this.shelf.close();
  }
}
