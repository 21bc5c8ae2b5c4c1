"use client";
import type { CutoutGroup } from "@larder/core/snapshot/cutout-group";
import type { CutoutGroups } from "@larder/core/snapshot/cutouts";
import { number } from "@/ui/words";
import type { Looks } from "../grid/cell";
import { groupName, groupWord } from "./use-cutouts";

const headings: Record<CutoutGroup["of"], string> = {
  class: "Objects of a class",
  "image-class": "Images of a class",
  attribute: "Objects by attribute",
};

/** Chooses of what cut-outs are shown. */
export function GroupField({
  groups,
  looks,
  chosen,
  onChoose,
}: {
  groups: CutoutGroups;
  looks: Looks;
  chosen: string;
  onChoose: (word: string) => void;
}) {
  return (
    <label className="flex items-center gap-2 text-small text-ink-3">
      <span className="sr-only">Cut-outs of</span>
      <select
        value={chosen}
        onChange={(event) => onChoose(event.target.value)}
        className="h-7 max-w-72 rounded-md border border-rule-strong bg-sheet px-1.5 text-ink"
      >
        {(["class", "image-class", "attribute"] as const).map((of) => {
          const some = groups.filter(({ group }) => group.of === of);
          return some.length === 0 ? null : (
            <optgroup key={of} label={headings[of]}>
              {some.map(({ group, count }) => (
                <option key={groupWord(group)} value={groupWord(group)}>
                  {groupName(group, looks)} ({number(count)})
                </option>
              ))}
            </optgroup>
          );
        })}
      </select>
    </label>
  );
}
