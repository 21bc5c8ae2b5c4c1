import { exportSchema, exportSelection } from "@larder/server/services/export-selection";
import { versionsOf } from "@larder/server/services/versions";
import { answer } from "@/edge/answer";

/** Selections that were packed as they are. */
export const GET = answer(({ actor, id }) => versionsOf(actor, id(), { selections: true }));
export const POST = answer(async ({ actor, id, body }) => exportSelection(actor, id(), await body(exportSchema)));
