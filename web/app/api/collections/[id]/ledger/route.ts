import { ledgerPage } from "@larder/server/services/ledger/rows";
import { cellsSchema, setCells } from "@larder/server/services/ledger/set-cells";
import { z } from "zod";
import { askedOrder, askedSelection } from "@/edge/asked-selection";
import { answer, one } from "@/edge/answer";

const pageSchema = z.object({
  start: one(z.coerce.number().int().min(0)),
  limit: one(z.coerce.number().int().min(1).max(1000)),
});

export const GET = answer(({ actor, id, query }) =>
  ledgerPage(actor, id(), query(askedSelection), { ...query(pageSchema), order: query(askedOrder) }),
);

export const POST = answer(async ({ actor, id, body }) => setCells(actor, id(), await body(cellsSchema)), {
  bodyBytes: 8 << 20,
});
