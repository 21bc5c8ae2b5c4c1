import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { classListSchema, classTable, loadClassList } from "@larder/server/services/classes";

export const GET = answer(({ id }) => classTable(localActor, id()));
export const POST = answer(async ({ id, body }) => loadClassList(localActor, id(), await body(classListSchema)));
