import { historyLines } from "@larder/server/services/acts";
import { z } from "zod";
import { answer, one } from "@/edge/answer";
import { csvDownload } from "@/edge/csv-download";

const querySchema = z.object({ actor: one(z.string().optional()), kind: one(z.string().optional()) });

/** The history as a table to load. */
export const GET = answer(({ actor, id, query }) =>
  csvDownload("history", historyLines(actor, id(), query(querySchema))),
);
