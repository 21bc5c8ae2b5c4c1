/** What is known of a version, for its data card. */
import { noFacts } from "@larder/core/intake/facts";
import { planToYaml } from "@larder/core/plans/plan-text";
import { upgradePlan } from "@larder/core/plans/upgrade";
import type { DataCard } from "@larder/core/versions/data-card";
import type { versions } from "../../db/schema";

/** The card of a version that is packed in no format. */
export function cardOf(version: typeof versions.$inferSelect, title: string, pictures: DataCard["pictures"]): DataCard {
  const { numbers, sources, digest, note, frozenAt, selection, faults } = version;
  return {
    title,
    note,
    digest: digest ?? "",
    frozen: selection || !frozenAt ? null : frozenAt.toISOString().slice(0, 10),
    images: numbers?.images ?? 0,
    objects: numbers?.objects ?? 0,
    bySplit: numbers?.bySplit ?? {},
    byClass: numbers?.byClass ?? {},
    sources: sources.map(({ name, images, facts }) => {
      const { licence, citation, source, notes } = facts ?? noFacts;
      return { name, images, licence, citation, source, notes };
    }),
    pictures,
    plan: planToYaml(upgradePlan(version.plan)),
    faults,
    training: null,
    losses: [],
  };
}
