import { classListKinds, type ClassListKind } from "@larder/core/relabel/class-list-file";
import { classFile } from "@larder/server/services/classes/class-list";
import { z } from "zod";
import { answer, one } from "@/edge/answer";

const types: Record<ClassListKind, string> = { txt: "text/plain", csv: "text/csv", json: "application/json" };

/** The class list as a file to save. */
export const GET = answer(async ({ actor, id, query }) => {
  const { as } = query(z.object({ as: one(z.enum(classListKinds)) }));
  return new Response(await classFile(actor, id(), { as }), {
    headers: {
      "content-type": `${types[as]}; charset=utf-8`,
      "content-disposition": `attachment; filename="classes.${as}"`,
    },
  });
});
