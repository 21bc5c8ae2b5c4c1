import { failed } from "@/edge/answer";
import { actorOf } from "@/edge/actor";
import { packageAnswer } from "@/edge/package-answer";
import { holderOfLink } from "@larder/server/services/package-links";

type Context = { params: Promise<{ token: string; file: string }> };

/** A package's bytes for whoever has the link, until it ends. */
async function serve(request: Request, { params }: Context): Promise<Response> {
  try {
    const { holder, package: id } = await holderOfLink(await actorOf(request), (await params).token);
    return await packageAnswer(request, holder, id);
  } catch (error) {
    return failed(error);
  }
}

export { serve as GET, serve as HEAD };
