import { Findings, worstFirst, type Severity } from "@larder/core/model/finding";
import { lookAlikes } from "@larder/core/relabel/look-alike";
import { selecting } from "@larder/core/selection/dimensions";
import { and, eq } from "drizzle-orm";
import { db } from "../db/database";
import { deliveries } from "../db/schema";
import type { Actor } from "./actor";
import { ask } from "../snapshot/ask";
import { allow } from "./access";

export type CheckEntry = {
  severity: Severity;
  code: string;
  sentence: string;
  examples: string[];
  count: number;
  /** Which deliveries said it; none for what the stock as a whole shows. */
  deliveries: { id: number; name: string }[];
  /** The selection that shows it; null where nothing in stock does. */
  where: string | null;
};

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
const shownByStock = new Set(["class-similar", "image-unlabeled"]);

/** Findings that the images still show themselves. */
const shownByImages: Record<string, string> = {
  "near-copy": "near-copies >= 1",
  "image-empty": "state = empty",
  "exif-rotated": "turned = yes",
};

/** What is worth a look in a collection: the balance of its stock, and what its deliveries found. */
export async function checksOf(actor: Actor, collectionId: number): Promise<CheckEntry[]> {
  await allow(actor, "see", { collection: collectionId });
  return checkEntries(collectionId);
}

/** The same for whoever has asked `allow`. */
export async function checkEntries(collectionId: number): Promise<CheckEntry[]> {
  const { checks, names } = await ask("balance", collectionId, undefined);
  const balance = checks.map((check): CheckEntry => ({
    severity: check.severity,
    code: check.code,
    sentence: check.message,
    examples: [],
    count: check.count,
    deliveries: [],
    where: check.where,
  }));
  const alike = lookAlikes(names).map(([a, b]): CheckEntry => ({
    severity: "warning",
    code: "class-similar",
    examples: [],
    sentence: `"${a}" and "${b}" look like one class. A plan can rename one to the other.`,
    count: 1,
    deliveries: [],
    where: selecting({ class: [b] }),
  }));
  const delivered = await db()
    .select({ id: deliveries.id, name: deliveries.name, findings: deliveries.findings })
    .from(deliveries)
    .where(and(eq(deliveries.collectionId, collectionId), eq(deliveries.status, "taken")))
    .orderBy(deliveries.id);
  const said = new Set(await ask("findings", collectionId, undefined));
  // What several deliveries found is one sentence with the number of all.
  const together = new Findings();
  for (const { findings } of delivered) together.merge(findings.filter(({ code }) => !shownByStock.has(code)));
  const found = together.list().map((finding): CheckEntry => {
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
    };
  });
  const all = [...alike, ...balance, ...found];
  return all.sort((a, b) => worstFirst(a, b));
}
