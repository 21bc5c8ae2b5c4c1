import { keepableName } from "../model/class-name";
import type { Findings } from "../model/finding";
import type { Item } from "../model/item";
import type { Reading } from "./format";

/** A reading with the names of its classes as they can be kept; those that are changed go to `report`. */
export function withKeepableNames(reading: Reading, report: Findings): Reading {
  const known = new Map<string, string>();
  const keep = (name: string): string => {
    let kept = known.get(name);
    if (kept === undefined) {
      known.set(name, (kept = keepableName(name)));
      if (kept !== name) report.add("class-renamed", "", `it is kept as "${kept.slice(0, 60)}"`);
    }
    return kept;
  };
  const stays = (item: Item) =>
    item.classes.every((name) => keep(name) === name) &&
    item.objects.every((object) => keep(object.class) === object.class);
  async function* items(): AsyncIterable<Item> {
    for await (const item of reading.items)
      yield stays(item)
        ? item
        : {
            ...item,
            classes: [...new Set(item.classes.map(keep))],
            objects: item.objects.map((object) => ({ ...object, class: keep(object.class) })),
          };
  }
  const names = new Set<string>();
  const classes = reading.classes.flatMap((info) => {
    const name = keep(info.name);
    if (names.has(name)) return [];
    names.add(name);
    return [name === info.name ? info : { ...info, name }];
  });
  return { classes, items: items() };
}
