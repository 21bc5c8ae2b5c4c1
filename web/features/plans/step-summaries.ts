import { isOneOf, isSomeOf } from "@larder/core/plans/augmentations";
import { opNamed } from "@larder/core/imaging/ops/registry";
import type { Plan } from "@larder/core/plans/plan";
import type { PlanStep } from "@larder/core/plans/flow";

const list = (parts: readonly (string | null | false | undefined)[]) => parts.filter((part) => part).join(", ");

function selectWords({ where, states, floor, cap, sample }: Plan["select"]): string {
  const which = states.length === 3 ? "everything" : states.length === 0 ? "nothing" : states.join(" or ");
  return list([
    where.trim() === "" ? which : `${where.trim()}${states.length < 3 ? `, ${which}` : ""}`,
    floor > 0 && `classes from ${floor} images`,
    cap && `at most ${cap.images} a class`,
    sample > 0 && `${sample} drawn`,
  ]);
}

function relabelWords({ leaveOut, rename, keep, objects, splitBy, join, shapes }: Plan["relabel"]): string {
  const renames = Object.keys(rename).length;
  return (
    [
      leaveOut.length > 0 && `${leaveOut.length > 2 ? `${leaveOut.length} classes` : leaveOut.join(" and ")} left out`,
      renames > 0 && `${renames} renamed`,
      keep.length > 0 && `only ${keep.length > 2 ? `${keep.length} classes` : keep.join(" and ")}`,
      objects.trim() !== "" && "some objects",
      splitBy.length > 0 && `split by ${splitBy.map(({ attribute }) => attribute).join(" and ")}`,
      join.length > 0 && `${join.length} joined`,
      shapes !== "as-they-are" && `as ${shapes.replaceAll("-", " ")}`,
    ]
      .filter(Boolean)
      .join("; ") || "classes as they are"
  );
}

function splitWords({ split, seed }: Plan): string {
  const keeps = split.stand === "all" ? "keeps what came, the rest " : "";
  switch (split.mode) {
    case "keep":
      return "as it stands in stock";
    case "ratio":
      return `${keeps}${split.ratio.train} / ${split.ratio.val} / ${split.ratio.test}, seed ${seed}`;
    case "counts":
      return `${keeps}${split.counts.val} val, ${split.counts.test} test, seed ${seed}`;
    case "folds":
      return `fold ${split.folds.this} of ${split.folds.of}, seed ${seed}`;
    case "by-date":
      return list([
        split.dates.val && `val from ${split.dates.val}`,
        split.dates.test && `test from ${split.dates.test}`,
      ]);
  }
}

const resizeWords = { fit: "inside", pad: "padded to", stretch: "distorted to", fill: "filling", longest: "longest" };

function prepareWords({ resize, tiles, crop, tone }: Plan["prepare"]): string {
  const size = resize
    ? resize.mode === "longest"
      ? `longer side ${resize.width}`
      : `${resizeWords[resize.mode]} ${resize.width} × ${resize.height}`
    : "size as it is";
  return list([
    Object.values(crop).some((share) => share > 0) && "cropped",
    tiles &&
      ("width" in tiles ? `tiles of ${tiles.width} × ${tiles.height}` : `${tiles.columns} × ${tiles.rows} tiles`),
    size,
    tone.grey && "grey",
    tone.contrast !== "none" && "contrast",
  ]);
}

function augmentWords({ copies, do: steps, rare }: Plan["augment"]): string {
  if (copies === 0 && !rare) return "no copies";
  const ops = steps.map((step) =>
    isOneOf(step) ? "one of several" : isSomeOf(step) ? "some of several" : opNamed(step.op).title.toLowerCase(),
  );
  const shown = ops.length > 3 ? [...ops.slice(0, 2), `${ops.length - 2} more`] : ops;
  return list(["train only", copies > 0 && `${copies} more of each`, rare && "rare ones more", ...shown]);
}

/** Each step of a plan in a few words, as its column head says them. */
export function stepSummaries(plan: Plan): Record<Exclude<PlanStep, "stock">, string> {
  return {
    select: selectWords(plan.select),
    relabel: relabelWords(plan.relabel),
    split: splitWords(plan),
    prepare: prepareWords(plan.prepare),
    augment: augmentWords(plan.augment),
    pack: plan.pack.formats.length > 0 ? plan.pack.formats.map(({ format }) => format).join(", ") : "no package yet",
  };
}
