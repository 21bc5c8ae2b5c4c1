/** The steps by which an image comes to say in a column what a cell holds. */
import { applySteps, stateStep } from "../labels/apply";
import type { Labels } from "../labels/labels";
import type { Step } from "../labels/step";
import type { Split } from "../model/item";
import { sameValue, type CellValue, type LedgerColumn } from "./column";

/** What comes and what goes, from one list to another. */
function listSteps<T>(before: readonly T[], after: readonly T[], add: (entry: T) => Step, remove: (entry: T) => Step) {
  return [
    ...before.filter((entry) => !after.includes(entry)).map(remove),
    ...after.filter((entry) => !before.includes(entry)).map(add),
  ];
}

const listOf = (value: CellValue): string[] => (Array.isArray(value) ? value : value === null ? [] : [String(value)]);

function ownSteps(column: LedgerColumn, value: CellValue, labels: Labels, classId: (name: string) => number): Step[] {
  switch (column.kind) {
    case "split":
      return labels.split === value ? [] : [{ do: "set-split", split: value as Split | null }];
    case "classes":
      return listSteps(
        labels.classes,
        listOf(value).map(classId),
        (id): Step => ({ do: "add-class", class: id }),
        (id): Step => ({ do: "remove-class", class: id }),
      );
    case "tags":
      return listSteps(
        labels.tags,
        listOf(value),
        (tag): Step => ({ do: "add-tag", tag }),
        (tag): Step => ({ do: "remove-tag", tag }),
      );
    case "caption": {
      const captions = value === null ? [] : String(value).split("\n");
      return sameValue([...labels.captions], captions) ? [] : [{ do: "set-caption", captions }];
    }
    case "attribute": {
      const now = Object.hasOwn(labels.attributes, column.name) ? (labels.attributes[column.name] ?? null) : null;
      return sameValue(now, value) ? [] : [{ do: "set-image-attribute", name: column.name, value }];
    }
  }
}

/**
 * Steps from the labels as they stand to what cells of one image say, its state brought in line; none where it is said
 * already. `classId` gives the id of a class, which is there.
 */
export function cellSteps(
  cells: readonly { column: LedgerColumn; value: CellValue }[],
  labels: Labels,
  classId: (name: string) => number,
): Step[] {
  const steps: Step[] = [];
  let now = labels;
  for (const { column, value } of cells) {
    const own = ownSteps(column, value, now, classId);
    now = applySteps(now, own).after;
    steps.push(...own);
  }
  const settled = steps.some(({ do: what }) => what.endsWith("-class") || what === "set-caption")
    ? stateStep(now)
    : null;
  return settled ? [...steps, settled] : steps;
}
