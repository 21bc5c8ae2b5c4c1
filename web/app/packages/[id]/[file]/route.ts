import { failed } from "@/edge/answer";
import { actorOf } from "@/edge/actor";
import { packageAnswer } from "@/edge/package-answer";
import { z } from "zod";

type Context = { params: Promise<{ id: string; file: string }> };

/** A package's bytes under an address that stays. */
async function serve(request: Request, { params }: Context): Promise<Response> {
  try {
    const id = z.coerce
      .number()
      .int()
      .parse((await params).id);
    return await packageAnswer(request, await actorOf(request), id);
  } catch (error) {
    return failed(error);
  }
}

export { serve as GET, serve as HEAD };
