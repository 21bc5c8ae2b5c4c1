import type { Findings } from "../model/finding";
import type { ClassInfo } from "../model/item";
import { pairsOf } from "../model/keypoint-pairs";
import { opsIn } from "./augmentations";
import type { Plan } from "./plan";

/** Names the classes whose keypoints a plan's mirror moves without swapping any, since no left and right is known. */
export function reportUnpairedMirrors({ augment }: Plan, classes: readonly ClassInfo[], report: Findings): void {
  if (augment.copies === 0 && !augment.rare) return;
  if (!opsIn(augment.do).some(({ op, chance }) => (op === "flip-sideways" || op === "flip-over") && chance > 0)) return;
  for (const info of classes)
    if ((info.keypoints?.length ?? 0) > 1 && pairsOf(info).length === 0) report.add("mirror-unpaired", info.name);
}
