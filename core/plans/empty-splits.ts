import { Failure } from "../model/failure";
import type { Flow } from "./flow";
import type { Plan } from "./plan";

/** Throws a Failure where nothing comes through a plan, or a split that it asks for would hold no image. */
export function refuseEmptySplits({ assigned, emptySplits, together }: Flow, { split }: Plan): void {
  if (assigned.size === 0)
    throw new Failure(
      "nothing-to-build",
      "No image comes through this plan. Loosen its selection, or label some images first.",
    );
  if (emptySplits.length === 0) return;
  const names = emptySplits.join(" and ");
  const cause =
    split.mode === "by-date"
      ? "no image was taken on its days"
      : together && together.groups > 0
        ? `the images hold together in too few groups (the largest has ${together.largest})`
        : `there are only ${assigned.size} for the splits that were asked for`;
  throw new Failure("split-empty", `${names} would hold no image: ${cause}. Add images, or set that share to 0.`);
}
