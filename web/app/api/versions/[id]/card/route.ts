import { answer, one } from "@/edge/answer";
import { cardFile } from "@larder/server/services/version-page";
import { z } from "zod";

const types = { md: "text/markdown", html: "text/html" } as const;

/** The data card as a file to save. */
export const GET = answer(async ({ actor, id, query }) => {
  const { as } = query(z.object({ as: one(z.enum(["md", "html"])) }));
  return new Response(await cardFile(actor, id(), as), {
    headers: {
      "content-type": `${types[as]}; charset=utf-8`,
      "content-disposition": `attachment; filename="DATA-CARD.${as}"`,
    },
  });
});
