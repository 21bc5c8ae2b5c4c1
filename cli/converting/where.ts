/** `--where`: which images of a source are meant, by the selection language. */
import type { Reading } from "@larder/core/formats/format";
import type { Item } from "@larder/core/model/item";
import { selectableObject } from "@larder/core/relabel/relabeling";
import { bindSelection, type BoundSelection } from "@larder/core/selection/bind";
import { parseSelection } from "@larder/core/selection/parse";
import { predicateOf, type SelectableImage, type SelectableObject } from "@larder/core/selection/predicate";
import { SelectionError } from "@larder/core/selection/selection-error";
import type { FoundItem } from "./settled-items";

/** An item as a selection looks at it. What only stock knows is unset. */
function selectable({ item, facts, bytes, findings }: FoundItem): SelectableImage {
  const size = facts ?? item.declared ?? { width: 0, height: 0 };
  let objects: SelectableObject[] | null = null;
  return {
    name: item.path,
    split: item.split,
    state: item.state,
    classes: item.classes,
    captions: item.captions,
    width: size.width,
    height: size.height,
    bytes: bytes?.length ?? null,
    taken: facts?.taken.takenAt ? Date.parse(`${facts.taken.takenAt}Z`) : null,
    turned: facts ? facts.orientation > 1 : null,
    findings,
    // Worked out where they are asked for, which many selections never do.
    get objects() {
      return (objects ??= item.objects.map(selectableObject));
    },
  };
}

/** Names of the attributes that objects of these items carry. */
async function attributeNames(items: AsyncIterable<Item>): Promise<string[]> {
  const names = new Set<string>();
  for await (const item of items)
    for (const { attributes } of item.objects) for (const name of Object.keys(attributes ?? {})) names.add(name);
  return [...names];
}

/**
 * Says of each item whether the text means it. `read` reads the source anew, which is only done where the text asks for
 * a name that is no built-in field. Throws a SelectionError where the text cannot be understood.
 */
export async function whereTest(text: string, read: () => Promise<Reading>): Promise<(item: FoundItem) => boolean> {
  if (text.trim() === "") return () => true;
  const tree = parseSelection(text);
  let bound: BoundSelection;
  try {
    bound = bindSelection(tree);
  } catch (error) {
    if (!(error instanceof SelectionError)) throw error;
    const names = await attributeNames((await read()).items);
    bound = bindSelection(tree, { image: [], object: names });
  }
  const means = predicateOf(bound);
  return (item) => means(selectable(item));
}
