import type { Findings } from "../model/finding";
import type { ClassInfo } from "../model/item";
import { pairsOf } from "../model/keypoint-pairs";
import type { Plan } from "./plan";

/** Names the classes whose keypoints a plan's mirror moves without swapping any, since no left and right is known. */
export function reportUnpairedMirrors(plan: Plan, classes: readonly ClassInfo[], report: Findings): void {
  if (plan.augment.copies === 0 || plan.augment.flipSideways === 0) return;
  for (const info of classes)
    if ((info.keypoints?.length ?? 0) > 1 && pairsOf(info).length === 0) report.add("mirror-unpaired", info.name);
}
