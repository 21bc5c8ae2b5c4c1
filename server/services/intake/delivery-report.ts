/** All that was found in a delivery, as a table to load. */
import { stringify } from "csv-stringify/sync";
import { and, asc, eq, gt, sql } from "drizzle-orm";
import { db } from "../../db/database";
import { deliveryItems } from "../../db/schema";
import { allow } from "../access";
import type { Actor } from "../actor";
import { deliveryRow } from "../deliveries";

import { sheetNumbers } from "./sheet-numbers";
import { nearCopy } from "./staged-conditions";

/** The name of the picture that another is nearly the same as, in its delivery or in stock. */
const nameOfNear = sql<
  string | null
>`coalesce((select o.path from delivery_items o where o.delivery_id = delivery_items.delivery_id and o.ordinal = delivery_items.near_ordinal), (select i.name from images i where i.id = delivery_items.near_image))`;

/** The report of a delivery as CSV: a line a finding of the whole, then a line a picture and finding. */
export async function* deliveryReport(actor: Actor, id: number): AsyncIterable<string> {
  await allow(actor, "see", { delivery: id });
  const delivery = await deliveryRow(id);
  const line = (cells: readonly (string | number)[]) => stringify([cells], { escape_formulas: true });
  yield line(["severity", "code", "picture", "count", "what"]);
  const whole = delivery.status === "taken" ? delivery.findings : (await sheetNumbers(actor, id)).findings;
  for (const { severity, code, count, message } of whole) yield line([severity, code, "", count, message]);
  for (const name of delivery.sheet?.unmatched.names ?? [])
    yield line(["error", "image-missing", name, 1, "An annotation names this picture, which is not there."]);
  for (const name of delivery.sheet?.files.unusedNames ?? [])
    yield line(["info", "file-unused", name, 1, "This file was not read as an annotation."]);
  for (let last = -1; ;) {
    const rows = await db()
      .select({
        ordinal: deliveryItems.ordinal,
        path: deliveryItems.path,
        findings: deliveryItems.findings,
        unreadable: deliveryItems.unreadable,
        near: nameOfNear,
      })
      .from(deliveryItems)
      .where(
        and(
          eq(deliveryItems.deliveryId, id),
          gt(deliveryItems.ordinal, last),
          sql`(unreadable is not null or jsonb_array_length(findings) > 0 or ${nearCopy})`,
        ),
      )
      .orderBy(asc(deliveryItems.ordinal))
      .limit(1000);
    for (const { path, findings, unreadable, near } of rows) {
      if (near !== null) yield line(["info", "near-copy", path, 1, `It is nearly the same as ${near}.`]);
      if (unreadable !== null) yield line(["error", "image-unreadable", path, 1, unreadable]);
      for (const finding of findings ?? [])
        if (finding.code !== "image-unreadable")
          yield line([finding.severity, finding.code, path, finding.count, finding.message]);
    }
    const end = rows[rows.length - 1];
    if (!end) return;
    last = end.ordinal;
  }
}
