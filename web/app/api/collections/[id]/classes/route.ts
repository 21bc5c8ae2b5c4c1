import { answer } from "@/edge/answer";
import { classTable } from "@larder/server/services/classes";
import { classListSchema, loadClassList } from "@larder/server/services/classes/class-list";

export const GET = answer(({ actor, id }) => classTable(actor, id()));
export const POST = answer(async ({ actor, id, body }) => loadClassList(actor, id(), await body(classListSchema)), {
  bodyBytes: 8 << 20,
});
