import { disputedFrame, type DisputedObject } from "@larder/core/editing/disputed";
import type { Size } from "@larder/core/model/item";
import { Shapes } from "@/features/shapes/shapes";
import { pictureAddress } from "./pictures-ahead";

/** The part of an image where two people disagree, with what one of them would have there. */
export function DisputedPicture({
  image,
  size,
  disputed,
  side,
  colourOf,
}: {
  image: number;
  size: Size;
  disputed: readonly DisputedObject[];
  side: "mine" | "theirs";
  colourOf: (classId: number) => string;
}) {
  const frame = disputedFrame(disputed, size);
  if (!frame) return null;
  const percent = (part: number, whole: number) => `${(100 * part) / whole}%`;
  return (
    <div
      role="img"
      aria-label={side === "mine" ? "What was done here" : "What stands there"}
      className="relative mb-2 w-full overflow-hidden rounded-sm bg-well"
      style={{ aspectRatio: `${frame.width} / ${frame.height}`, maxHeight: 280 }}
    >
      <div
        className="absolute"
        style={{
          left: percent(-frame.x, frame.width),
          top: percent(-frame.y, frame.height),
          width: percent(size.width, frame.width),
          height: percent(size.height, frame.height),
        }}
      >
        <img src={pictureAddress(image)} alt="" className="absolute inset-0 size-full" />
        <Shapes
          {...size}
          shapes={disputed.flatMap((object) => {
            const shown = object[side];
            return shown ? { key: object.uid, shape: shown.shape, colour: colourOf(shown.class) } : [];
          })}
        />
      </div>
    </div>
  );
}
