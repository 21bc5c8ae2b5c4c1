import { changeColumns, columnChangeSchema, ledgerColumns } from "@larder/server/services/ledger/columns";
import { answer } from "@/edge/answer";

export const GET = answer(({ actor, id }) => ledgerColumns(actor, id()));

export const POST = answer(async ({ actor, id, body }) => changeColumns(actor, id(), await body(columnChangeSchema)));
