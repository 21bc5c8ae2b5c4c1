/**
 * A plan's relabeling, in the order leaveOut, rename, splitBy, join, keep, objects, shapes: what becomes of each object
 * and image-level class. What leaves goes by the old names; all that follows renaming goes by the new ones.
 */
import { shapeArea, shapeBounds } from "../geometry/shape";
import { fitShape } from "../formats/fit";
import type { Carries } from "../formats/format";
import type { Findings } from "../model/finding";
import type { AttributeValue, ClassInfo, LabeledObject, Size } from "../model/item";
import { ownEntry } from "../model/own-entry";
import type { ShapeKind } from "../model/shape";
import { objectsAsSelection, type Plan, type ShapeChoice } from "../plans/plan";
import { bindSelection, type KnownAttributes } from "../selection/bind";
import { parseSelection } from "../selection/parse";
import { objectPredicate, type SelectableObject } from "../selection/predicate";

type Attributes = Readonly<Record<string, AttributeValue>> | undefined;

/** An attribute's value as it stands in a class's name. */
function valueText(value: AttributeValue): string {
  if (typeof value === "boolean") return value ? "yes" : "no";
  return Array.isArray(value) ? [...value].sort().join("-") : String(value);
}

/** What each choice of shapes leaves, from the top of the ladder of formats/fit.ts. */
const rungs: Record<Exclude<ShapeChoice, "as-they-are" | "image-classes">, readonly ShapeKind[]> = {
  boxes: ["box"],
  "rotated-boxes": ["rotated-box", "box"],
  polygons: ["polygon", "rotated-box", "box", "keypoints", "line"],
  masks: ["mask", "rotated-box", "box", "keypoints", "line"],
};

function carriesOf(choice: keyof typeof rungs): Carries {
  return {
    shapes: rungs[choice],
    parts: "kept",
    holes: "kept",
    flags: [],
    attributes: true,
    captions: "many",
    fields: true,
    imageClasses: "many",
    noSplit: true,
    empty: true,
  };
}

type Renamed = { name: string; attribute?: readonly [name: string, value: AttributeValue] };

export class Relabeling {
  private readonly leftOut: ReadonlySet<string>;
  private readonly kept: ReadonlySet<string> | null;
  private readonly meets: ((object: SelectableObject, image: Size) => boolean) | null;
  private readonly joins: ReadonlyMap<string, Required<Renamed>>;
  /** What `splitBy` made of each class, as far as objects were named. */
  readonly made = new Map<string, Set<string>>();

  /** `dropped` are classes that leave before, by their old names. Throws where the conditions cannot be understood. */
  constructor(
    private readonly relabel: Plan["relabel"],
    attributes: KnownAttributes,
    private readonly dropped: ReadonlySet<string> = new Set(),
  ) {
    this.leftOut = new Set(relabel.leaveOut);
    this.kept = relabel.keep.length > 0 ? new Set(relabel.keep) : null;
    this.joins = new Map(
      relabel.join.flatMap(({ classes, into, attribute, values }) =>
        classes.map((name, at) => [name, { name: into, attribute: [attribute, values[at] ?? name] as const }] as const),
      ),
    );
    const conditions = relabel.objects.trim();
    const bound = conditions === "" ? null : bindSelection(parseSelection(objectsAsSelection(conditions)), attributes);
    this.meets = bound?.kind === "has" && bound.where !== null ? objectPredicate(bound.where) : null;
  }

  /** Whether more than an object's class decides what it becomes. */
  get looksAtObjects(): boolean {
    return this.meets !== null || this.relabel.splitBy.length > 0 || this.relabel.shapes !== "as-they-are";
  }

  /** Whether objects get attributes by their class. */
  get setsAttributes(): boolean {
    return this.joins.size > 0;
  }

  /** The name after leaving out and renaming; null where the class leaves. */
  private renamed(name: string): string | null {
    if (this.dropped.has(name) || this.leftOut.has(name)) return null;
    return ownEntry(this.relabel.rename, name) ?? name;
  }

  private split(name: string, attributes: Attributes): string {
    for (const { attribute, classes, name: pattern } of this.relabel.splitBy) {
      if (classes.length > 0 && !classes.includes(name)) continue;
      const value = attributes && Object.hasOwn(attributes, attribute) ? attributes[attribute] : undefined;
      if (value === undefined) continue;
      const made = pattern.replaceAll("{class}", name).replaceAll("{value}", valueText(value));
      const names = this.made.get(name) ?? new Set();
      this.made.set(name, names.add(made));
      return made;
    }
    return name;
  }

  private joined(name: string): Renamed {
    return this.joins.get(name) ?? { name };
  }

  private finished(renamed: Renamed): Renamed | null {
    return this.kept && !this.kept.has(renamed.name) ? null : renamed;
  }

  /** What an object of this class, with these attributes, is called; null where it leaves. */
  private objectName(name: string, attributes: Attributes): Renamed | null {
    const renamed = this.renamed(name);
    return renamed === null ? null : this.finished(this.joined(this.split(renamed, attributes)));
  }

  /** What an image-level class is called; null where it leaves. */
  imageClass(name: string): string | null {
    const renamed = this.renamed(name);
    return renamed === null ? null : (this.finished(this.joined(renamed))?.name ?? null);
  }

  /**
   * What an object counts as: its class, the attribute that it gets, and whether it stays an object or becomes one of its image; null where it
   * leaves. The same as `labels` says, from what a selection sees of the object.
   */
  counted(object: SelectableObject, image: Size): (Renamed & { as: "object" | "image" }) | null {
    const renamed = this.objectName(object.class, object.attributes);
    if (!renamed || (this.meets && !this.meets({ ...object, class: renamed.name }, image))) return null;
    const { shapes } = this.relabel;
    if (shapes === "image-classes") return { ...renamed, as: "image" };
    const lost = object.shape === "line" && shapes !== "as-they-are" && !rungs[shapes].includes("line");
    return lost ? null : { ...renamed, as: "object" };
  }

  /** The labels after relabeling, on an image of this size; what shapes lose goes to the report under `path`. */
  labels(
    { objects, classes }: { objects: readonly LabeledObject[]; classes: readonly string[] },
    size: Size,
    report?: Findings,
    path = "",
  ): { objects: LabeledObject[]; classes: string[] } {
    const { shapes } = this.relabel;
    const names = new Set(classes.map((name) => this.imageClass(name)).filter((name) => name !== null));
    const kept: LabeledObject[] = [];
    for (const object of objects) {
      const renamed = this.objectName(object.class, object.attributes);
      if (!renamed) continue;
      const named: LabeledObject = { ...object, class: renamed.name };
      if (renamed.attribute) {
        const [attribute, value] = renamed.attribute;
        named.attributes = { ...object.attributes, [attribute]: value };
      }
      if (this.meets && !this.meets(selectableObject(named), size)) continue;
      if (shapes === "as-they-are") kept.push(named);
      else if (shapes === "image-classes") {
        names.add(renamed.name);
        report?.add("loss-object", path, `${renamed.name}, a ${object.shape.kind}`);
      } else {
        const fitted = fitShape(object.shape, carriesOf(shapes), size);
        if (!fitted) report?.add("loss-object", path, `${renamed.name}, a ${object.shape.kind}`);
        else {
          if (fitted.loss) report?.add(fitted.loss, path, renamed.name);
          if (fitted.shape === object.shape) kept.push(named);
          else {
            const { givenArea: _, ...rest } = named;
            kept.push({ ...rest, shape: fitted.shape });
          }
        }
      }
    }
    return { objects: kept, classes: [...names] };
  }

  /** Every name that things of a class go by afterwards, as far as they were named. */
  namesOf(name: string): string[] {
    const renamed = this.renamed(name);
    if (renamed === null) return [];
    return [renamed, ...(this.made.get(renamed) ?? [])].map((each) => this.joined(each).name);
  }

  /**
   * The class list after relabeling, in the old order: merged names at their first place, what `splitBy` made of a class
   * in its place by name, the class itself only where something is still called so.
   */
  classList(names: readonly string[], occurring: ReadonlySet<string>): string[] {
    const list = names.flatMap((name) => {
      const renamed = this.renamed(name);
      if (renamed === null) return [];
      const made = [...(this.made.get(renamed) ?? [])].sort();
      const itself = made.length === 0 || occurring.has(renamed) ? [renamed] : [];
      return [...itself, ...made].flatMap((each) => this.finished(this.joined(each))?.name ?? []);
    });
    return [...new Set(list)];
  }
}

/**
 * The classes of a list after relabeling with what is known of them: keypoints and all else of the first class before that
 * has keypoints, or else of the first, among those that became it.
 */
export function classInfosAfter(
  list: readonly string[],
  before: readonly ClassInfo[],
  relabeling: Relabeling,
): ClassInfo[] {
  const origins = new Map<string, ClassInfo[]>();
  for (const info of before)
    for (const name of relabeling.namesOf(info.name)) origins.set(name, [...(origins.get(name) ?? []), info]);
  return list.map((name) => {
    const from = origins.get(name) ?? [];
    const info = from.find(({ keypoints }) => keypoints) ?? from[0];
    return { ...info, name };
  });
}

/** An object as a selection looks at it. */
export function selectableObject({ shape, ...object }: LabeledObject): SelectableObject {
  const box = shapeBounds(shape) ?? { x: 0, y: 0, width: 0, height: 0 };
  return { ...object, ...box, area: shapeArea(shape), shape: shape.kind };
}
