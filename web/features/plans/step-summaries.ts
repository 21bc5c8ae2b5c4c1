import type { Plan } from "@larder/core/plans/plan";
import type { PlanStep } from "@larder/core/plans/flow";

/** Each step of a plan in a few words, as its column head says them. */
export function stepSummaries(plan: Plan): Record<Exclude<PlanStep, "stock">, string> {
  const { select, relabel, split, prepare, augment, pack } = plan;
  const renames = Object.keys(relabel.rename).length;
  const { resize } = prepare;
  return {
    select:
      select.states.length === 3
        ? "everything"
        : select.states.length === 0
          ? "nothing"
          : select.states.join(" or ") + (select.deliveries ? `, ${select.deliveries.length} deliveries` : ""),
    relabel:
      [
        relabel.leaveOut.length > 0
          ? `${relabel.leaveOut.length > 2 ? `${relabel.leaveOut.length} classes` : relabel.leaveOut.join(" and ")} left out`
          : null,
        renames > 0 ? `${renames} renamed` : null,
      ]
        .filter(Boolean)
        .join("; ") || "classes as they are",
    split:
      split.mode === "keep"
        ? "as it stands in stock"
        : `${split.stand === "all" ? "keeps what came, the rest " : ""}${split.ratio.train} / ${split.ratio.val} / ${split.ratio.test}, seed ${split.seed}`,
    prepare: resize
      ? `${resize.mode === "fit" ? "inside" : "distorted to"} ${resize.width} × ${resize.height}`
      : "size as it is",
    augment:
      augment.copies === 0
        ? "no copies"
        : `train only, ${augment.copies} more of each${augment.flipSideways > 0 ? ", flipped" : ""}`,
    pack: pack.formats.length > 0 ? pack.formats.join(", ") : "no package yet",
  };
}
