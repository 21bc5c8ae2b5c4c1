import { answer } from "@/edge/answer";
import { deletePackage } from "@larder/server/services/packages";

export const DELETE = answer(({ actor, id }) => deletePackage(actor, id()));
