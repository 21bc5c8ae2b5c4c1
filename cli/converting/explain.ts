/** Why an image is not in a data set, or what it becomes there. */
import { Failure } from "@larder/core/model/failure";
import { outcomeWords } from "@larder/core/plans/explain";
import { relabeledImage } from "@larder/core/versions/version-lines";
import type { Run } from "./run";
import type { PlannedSource } from "./planned-source";

/** A line for each image of that name: its path or its base name. Throws a Failure where there is none. */
export async function explainImage(source: PlannedSource, run: Run, name: string): Promise<string[]> {
  const keys = source.keysNamed(name);
  if (keys.length === 0) throw new Failure("image-missing", `There is no image called ${name}.`);
  const lines: string[] = [];
  for (const key of keys) {
    const image = source.load(key);
    lines.push(
      ...(await outcomeWords({ ...relabeledImage(image, run.flow), name: image.name }, image, run.flow, run.context)),
    );
  }
  return lines;
}
