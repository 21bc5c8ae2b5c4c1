import { ledgerFile, loadLedgerFile, tableFileSchema } from "@larder/server/services/ledger/table-file";
import { askedSelection } from "@/edge/asked-selection";
import { answer } from "@/edge/answer";
import { csvDownload } from "@/edge/csv-download";

/** The ledger of what matches as a table to save. */
export const GET = answer(({ actor, id, query }) =>
  csvDownload("ledger", ledgerFile(actor, id(), query(askedSelection))),
);

export const POST = answer(async ({ actor, id, body }) => loadLedgerFile(actor, id(), await body(tableFileSchema)), {
  bodyBytes: 64 << 20,
});
