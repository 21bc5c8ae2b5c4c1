import { suggestionSchema } from "@larder/core/labels/labels";
import { shapeArea, shapeBounds } from "@larder/core/geometry/shape";
import { noSuggestions, type Suggested } from "@larder/core/snapshot/snapshot";
import { z } from "zod";

const listSchema = z.array(suggestionSchema);

/** The open proposals of an image from their column; what is answered is none any more. */
export function suggestedIn(json: string | null, classNames: ReadonlyMap<number, string>): Suggested {
  if (json === null) return noSuggestions;
  const open = listSchema.parse(JSON.parse(json)).filter(({ answer }) => answer === undefined);
  if (open.length === 0) return noSuggestions;
  return {
    count: open.length,
    likely: Math.min(...open.map(({ confidence }) => confidence)),
    objects: open.flatMap(({ class: id, shape, confidence, attributes, run }) =>
      shape
        ? [
            {
              class: classNames.get(id) ?? "",
              ...(shapeBounds(shape) ?? { x: 0, y: 0, width: 0, height: 0 }),
              area: shapeArea(shape),
              shape: shape.kind,
              confidence,
              suggested: true,
              by: run,
              attributes,
            },
          ]
        : [],
    ),
  };
}
