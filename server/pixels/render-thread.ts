/** A thread that renders outputs of one image after the other. */
import type { Recipe } from "@larder/core/imaging/recipe";
import { Failure, sentenceFor } from "@larder/core/model/failure";
import { Renderer } from "./render";
import { tuneForManyPictures } from "./tuning";

export type RenderTask = {
  outputs: readonly { recipe: Recipe; kind: string }[];
  quality: number;
  sources: ReadonlyMap<string, Uint8Array>;
};
export type RenderReply = { files: Uint8Array[] } | { failure: { code: string; message: string } };

tuneForManyPictures();

/**
 * The files of outputs, each of its kind; what cannot be read or decoded is told, not thrown.
 * @public The pool calls it by its name.
 */
export async function renderTask({ outputs, quality, sources }: RenderTask): Promise<RenderReply> {
  const renderer = new Renderer((source) => {
    const bytes = sources.get(source);
    return bytes ? Promise.resolve(bytes) : Promise.reject(new Error(`no bytes of ${source}`));
  }, outputs.length);
  try {
    const files: Uint8Array[] = [];
    for (const { recipe, kind } of outputs) files.push(await renderer.render(recipe, kind, quality));
    return { files };
  } catch (error) {
    if (error instanceof Failure) return { failure: { code: error.code, message: error.message } };
    return {
      failure: { code: "image-unreadable", message: `${sentenceFor(error).message} (${(error as Error).message})` },
    };
  }
}
