/** At which step an image leaves a plan and by which rule, or what it becomes. */
import { isIdentity } from "../geometry/transform";
import type { Item } from "../model/item";
import type { Flow } from "./flow";
import { outputsOf, type OutputContext, type PlannedImage, type PlannedOutput } from "./outputs";

const copyWords = ({ copy, tile, recipe }: PlannedOutput): string => {
  const place = tile ? `tile ${tile.row},${tile.column}, ` : "";
  if (copy === 0) return `${place}itself`;
  const ops = recipe.effects.map(({ op }) => op);
  const turned = !isIdentity(recipe.warp);
  const all = [...(recipe.parts.length > 1 ? ["mosaic"] : []), ...(turned ? ["moved"] : []), ...ops];
  return `${place}copy ${copy} (${all.length > 0 ? all.join(", ") : "unchanged"})`;
};

/**
 * Lines of words: the step where the image leaves and the rule that did it, or its split and each output with what it holds
 * and what of its labels is dropped. `before` are the labels as they are in stock, `image` the same relabeled.
 */
export async function outcomeWords(
  image: PlannedImage & { name: string },
  before: Pick<Item, "objects" | "classes">,
  flow: Pick<Flow, "left" | "assigned">,
  context: OutputContext,
): Promise<string[]> {
  const gone = flow.left.get(image.key);
  if (gone) return [`${image.name} left at ${gone.step}: ${gone.reason}`];
  const split = flow.assigned.get(image.key);
  if (!split) return [`${image.name} is not in the data set`];
  const lines = [`${image.name} goes to ${split}`];
  const lost = before.objects.length - image.objects.length;
  if (lost > 0) lines.push(`  relabel: ${lost} of ${before.objects.length} objects leave`);
  let count = 0;
  for await (const output of outputsOf(image, split, context)) {
    count++;
    const { width, height } = output.size;
    lines.push(`  ${copyWords(output)}: ${width} × ${height}, ${output.objects.length} objects`);
    for (const { object, reason, left } of output.dropped)
      lines.push(`    ${object.class} dropped: ${reason}, ${(left * 100).toFixed(1)}% of it is left`);
  }
  if (count === 0) lines.push("  nothing comes out of it: every output is left out");
  return lines;
}
