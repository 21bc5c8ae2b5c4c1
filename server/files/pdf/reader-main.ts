/** The process that reads one PDF: whatever a page makes of it, only this process is slow, large or gone. */
import { Failure } from "@larder/core/model/failure";
import { readFile } from "node:fs/promises";
import { PdfDocument } from "./document";
import type { PdfAnswer, PdfRequest } from "./messages";

let document: PdfDocument | null = null;

async function answerTo(request: PdfRequest): Promise<PdfAnswer> {
  if (request.do === "open") {
    document = await PdfDocument.open(await readFile(request.file), request.resolution, request.maxPixels);
    return { pages: document.pages };
  }
  if (!document) throw new Error("no PDF is open");
  return request.do === "picture"
    ? { picture: await document.picture(request.page) }
    : { words: await document.words(request.page) };
}

process.on("message", (request: PdfRequest) => {
  answerTo(request)
    .catch((error: unknown): PdfAnswer => {
      const known = error instanceof Failure;
      const message = known ? error.message : `the page cannot be drawn (${(error as Error).message.split("\n")[0]})`;
      return { failure: { code: known ? error.code : "image-unreadable", message } };
    })
    .then(
      (answer) => process.send?.(answer),
      () => process.exit(1),
    );
});
process.send?.({ ready: true } satisfies PdfAnswer);
// Nobody is left to read for.
process.on("disconnect", () => process.exit(0));
