/** What deliveries found of their files, as findings of the whole stock. */
import { allChecks } from "@larder/core/checks/stocktake";
import { Findings } from "@larder/core/model/finding";
import { selecting } from "@larder/core/selection/dimensions";
import { and, eq } from "drizzle-orm";
import { db } from "../../db/database";
import { deliveries } from "../../db/schema";
import { ask } from "../../snapshot/ask";
import type { CheckEntry } from "./check-entry";

/** Findings about files that never became stock. */
const notInStock = new Set([
  "image-unreadable",
  "image-missing",
  "annotation-unreadable",
  "entry-unsafe",
  "file-not-taken",
  "address-failed",
  "classes-missing",
  "format-ambiguous",
]);

/** Findings that the stock says itself, as it is now. */
const shownByStock = new Set<string>([
  ...allChecks.map(({ code }) => code),
  ...["class-similar", "image-unlabeled", "near-copy", "object-duplicate"],
]);

/** Findings that the images still show themselves. */
const shownByImages: Record<string, string> = {
  "image-empty": "state = empty",
};

/** What deliveries found that the stock itself does not show: one sentence with the number of all. */
export async function deliveredFindings(collectionId: number): Promise<CheckEntry[]> {
  const delivered = await db()
    .select({ id: deliveries.id, name: deliveries.name, findings: deliveries.findings })
    .from(deliveries)
    .where(and(eq(deliveries.collectionId, collectionId), eq(deliveries.status, "taken")))
    .orderBy(deliveries.id);
  const said = new Set(await ask("findings", collectionId, undefined));
  // What several deliveries found is one sentence with the number of all.
  const together = new Findings();
  for (const { findings } of delivered) together.merge(findings.filter(({ code }) => !shownByStock.has(code)));
  return together.list().map((finding): CheckEntry => {
    const from = delivered
      .filter(({ findings }) => findings.some(({ code }) => code === finding.code))
      .map(({ id, name }) => ({ id, name }));
    // Images that came before findings were kept beside them are shown by their deliveries.
    const shows =
      shownByImages[finding.code] ??
      (said.has(finding.code)
        ? `finding = ${finding.code}`
        : selecting({ delivery: from.map((delivery) => delivery.name) }));
    const { severity, code, sentence, examples, count } = finding;
    return {
      severity,
      code,
      sentence,
      examples,
      count,
      deliveries: from,
      where: notInStock.has(finding.code) ? null : shows,
      ...{ key: `delivered ${code}`, images: 0, proofs: [], mends: [], threshold: null, mark: String(count) },
    };
  });
}
