import type { Step } from "@larder/core/labels/step";
import { v7 as uuidV7 } from "uuid";
import { localActor } from "../services/actor";
import { benchImage } from "../services/bench";
import { classTable } from "../services/classes";
import { sendSteps } from "../services/send-steps";

/** Draws boxes of a collection's first class on an image, as somebody at the bench does. */
export async function drawBoxes(
  collection: number,
  image: number,
  boxes: readonly (readonly [x: number, y: number, width: number, height: number])[],
): Promise<void> {
  const [one] = await classTable(localActor, collection);
  const { revision } = await benchImage(localActor, collection, image);
  const steps = boxes.map(([x, y, width, height]): Step => ({
    do: "add-object",
    object: { uid: uuidV7(), class: one?.id ?? 0, order: 9, shape: { kind: "box", x, y, width, height } },
  }));
  await sendSteps(localActor, collection, [{ image, revision, steps }]);
}
