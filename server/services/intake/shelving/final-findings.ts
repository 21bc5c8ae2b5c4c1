/** The findings of a delivery once all its files have been read. */
import { Findings, type Finding } from "@larder/core/model/finding";
import { and, asc, eq, gt, sql } from "drizzle-orm";
import type { Transaction } from "../../../db/database";
import { deliveryItems } from "../../../db/schema";

const pageSize = 2000;

/** What was found in each picture that has a finding, a page of pictures at a time. */
async function* stagedFindings(tx: Transaction, deliveryId: number): AsyncIterable<Finding[]> {
  for (let last = -1; ;) {
    const page = await tx
      .select({ ordinal: deliveryItems.ordinal, findings: deliveryItems.findings })
      .from(deliveryItems)
      .where(
        and(
          eq(deliveryItems.deliveryId, deliveryId),
          gt(deliveryItems.ordinal, last),
          eq(deliveryItems.leftOut, false),
          sql`jsonb_array_length(${deliveryItems.findings}) > 0`,
        ),
      )
      .orderBy(asc(deliveryItems.ordinal))
      .limit(pageSize);
    for (const { findings } of page) yield findings ?? [];
    if (page.length < pageSize) return;
    last = page[page.length - 1]?.ordinal ?? last;
  }
}

type Sums = { there: number; again: number; relabeled: number; contradicting: number; near: number };

/** What was foreseen from annotations is replaced by what the files showed; what only reading can tell stays. */
export async function finalFindings(
  tx: Transaction,
  deliveryId: number,
  foreseen: readonly Finding[],
  sums: Sums,
): Promise<Finding[]> {
  const byFiles = new Set([
    "image-unreadable",
    "box-outside-image",
    "size-mismatch",
    "exif-rotated",
    "object-duplicate",
    "image-unlabeled",
    "image-empty",
  ]);
  const report = new Findings();
  report.merge(foreseen.filter((finding) => !byFiles.has(finding.code) && finding.code !== "shape-degenerate"));
  let degenerate = 0;
  for await (const findings of stagedFindings(tx, deliveryId)) {
    report.merge(findings);
    degenerate += findings.find((finding) => finding.code === "shape-degenerate")?.count ?? 0;
  }
  // Shapes that the reader itself dropped never reached a file; the larger number is the whole.
  const read = foreseen.find((finding) => finding.code === "shape-degenerate");
  if (read && read.count > degenerate) report.merge([{ ...read, count: read.count - degenerate }]);
  if (sums.there > 0) report.add("already-in-stock", "", undefined, sums.there);
  if (sums.again > 0) report.add("copy-in-delivery", "", undefined, sums.again);
  if (sums.relabeled > 0) report.add("labels-changed", "", undefined, sums.relabeled);
  if (sums.contradicting > 0) report.add("label-contradiction", "", undefined, sums.contradicting);
  if (sums.near > 0) report.add("near-copy", "", undefined, sums.near);
  return report.list();
}
