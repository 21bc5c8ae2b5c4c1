/** Which objects of an image are meant: `roll (share < 1%)`, as it stands after `has` in a selection. */
import { shapeArea, shapeBounds } from "../geometry/shape";
import type { Size } from "../model/item";
import { bindSelection, type KnownAttributes } from "../selection/bind";
import { parseSelection } from "../selection/parse";
import { objectPredicate } from "../selection/predicate";
import { SelectionError } from "../selection/selection-error";
import { longestText } from "../selection/tokens";
import { z } from "zod";
import type { StockObject } from "./labels";

const prefix = "has ";

/** The text of object conditions: classes (`any`, a name, a set), then conditions in brackets. */
export const objectConditionsSchema = z
  .string()
  .trim()
  .min(1)
  .max(longestText - prefix.length);

/** Object conditions as the selection of images that have such an object. */
export const imagesWith = (conditions: string): string => prefix + conditions;

/** Says of an object on an image of `size`, in pixels, whether it is meant. */
export type ObjectTest = (object: StockObject, size: Size) => boolean;

/**
 * Reads object conditions. `className` names classes by their ids. Throws a SelectionError where the text is something
 * else, its columns counted in the text that was given.
 */
export function objectTest(
  text: string,
  attributes: KnownAttributes,
  className: (id: number) => string | undefined,
): ObjectTest {
  try {
    const bound = bindSelection(parseSelection(imagesWith(text)), attributes);
    if (bound.kind !== "has" || bound.least !== 1 || bound.most !== Infinity)
      throw new SelectionError(
        "Objects are named by their class, with conditions in brackets: roll (share < 1%)",
        prefix.length + 1,
        text.length,
      );
    const meets = bound.where === null ? () => true : objectPredicate(bound.where);
    return ({ class: id, shape, ...object }, size) => {
      const name = className(id) ?? "";
      if (bound.classes !== null && !bound.classes.has(name)) return false;
      const box = shapeBounds(shape) ?? { x: 0, y: 0, width: 0, height: 0 };
      return meets({ ...object, ...box, class: name, area: shapeArea(shape), shape: shape.kind }, size);
    };
  } catch (error) {
    if (!(error instanceof SelectionError)) throw error;
    const message = error.message.replace(/ \(column \d+\)$/, "");
    throw new SelectionError(message, Math.max(1, error.at - prefix.length), error.length, error.expected);
  }
}
