/** Which of what a page has fetched a change touches. */
import type { Topic } from "@larder/server/jobs/events";
import type { QueryKey } from "@tanstack/react-query";

/** By the first word of a query's key: the topics that touch it, and whether its second word is the collection. */
const queries: Record<string, { topics: readonly Topic[]; byCollection: boolean }> = {
  shelves: { topics: ["shelf"], byCollection: false },
  collection: {
    topics: ["stock", "classes", "deliveries", "plans", "versions", "shelf", "checks"],
    byCollection: true,
  },
  facets: { topics: ["stock", "classes"], byCollection: true },
  selections: { topics: ["stock", "classes", "deliveries", "selections"], byCollection: true },
  vocabulary: { topics: ["stock", "classes", "deliveries"], byCollection: true },
  stock: { topics: ["stock"], byCollection: true },
  ledger: { topics: ["stock", "classes"], byCollection: true },
  "ledger-columns": { topics: ["stock", "classes"], byCollection: true },
  cutouts: { topics: ["stock", "classes", "features"], byCollection: true },
  image: { topics: ["stock"], byCollection: true },
  bench: { topics: ["stock"], byCollection: true },
  "image-history": { topics: ["stock"], byCollection: true },
  "image-destinations": { topics: ["stock", "plans", "versions"], byCollection: true },
  history: { topics: ["stock"], byCollection: true },
  bin: { topics: ["stock"], byCollection: true },
  classes: { topics: ["stock", "classes"], byCollection: true },
  checks: { topics: ["stock", "classes", "deliveries", "features", "checks"], byCollection: true },
  "check-numbers": { topics: ["stock", "classes", "checks"], byCollection: true },
  "check-proofs": { topics: ["stock", "classes", "features", "checks"], byCollection: true },
  "check-history": { topics: ["stock", "classes", "deliveries", "checks"], byCollection: true },
  deliveries: { topics: ["deliveries"], byCollection: true },
  delivery: { topics: ["deliveries"], byCollection: false },
  "delivery-items": { topics: ["deliveries"], byCollection: false },
  plans: { topics: ["plans", "versions"], byCollection: true },
  plan: { topics: ["plans"], byCollection: false },
  "plan-flow": { topics: ["stock", "classes"], byCollection: true },
  "plan-gates": { topics: ["stock", "classes", "features", "checks"], byCollection: true },
  "plan-losses": { topics: ["stock", "classes"], byCollection: true },
  "plan-samples": { topics: ["stock"], byCollection: true },
  "plan-leaving": { topics: ["stock", "classes"], byCollection: true },
  "plan-history": { topics: ["plans"], byCollection: false },
  versions: { topics: ["versions"], byCollection: true },
  version: { topics: ["versions"], byCollection: true },
  scores: { topics: ["versions"], byCollection: true },
  compare: { topics: ["versions"], byCollection: true },
  jobs: { topics: ["jobs"], byCollection: false },
};

/** Whether a change of these topics, in one collection or (null) in any, touches what was fetched under a key. */
export function touches(key: QueryKey, topics: readonly Topic[], collection: number | null): boolean {
  const query = queries[String(key[0])];
  if (!query || !query.topics.some((topic) => topics.includes(topic))) return false;
  return collection === null || !query.byCollection || key[1] === collection;
}
