import { answer } from "@/edge/answer";
import { classListSchema, classTable, loadClassList } from "@larder/server/services/classes";

export const GET = answer(({ actor, id }) => classTable(actor, id()));
export const POST = answer(async ({ actor, id, body }) => loadClassList(actor, id(), await body(classListSchema)), {
  bodyBytes: 8 << 20,
});
