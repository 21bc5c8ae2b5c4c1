/** The thread that moves labels for real to count what a plan leaves of them, and what formats will lose of that. */
import { countOutputs, type OutputCounts } from "@larder/core/plans/count-outputs";
import { mostMoved } from "@larder/core/plans/flow";
import type { Split } from "@larder/core/model/item";
import { foreseenLosses, imagesForLosses, type ForeseenLosses } from "@larder/core/versions/foreseen-losses";
import { relabeledImage, type StockImage } from "@larder/core/versions/version-lines";
import { Failure, sentenceFor } from "@larder/core/model/failure";
import { db } from "../../db/database";
import { labeledImages } from "../building/labeled-images";
import { runOf, type TravellingRun } from "./planned-run";

export type RunRequest = {
  collection: number;
  revision: number;
  run: TravellingRun;
  /** Becomes 1 where nobody waits for the answer any more. */
  givenUp: SharedArrayBuffer;
};
export type RunReply<T> = { answer: T } | { failure: { code: string; message: string } };
/** What each task answers. */
export type RunTasks = { countMoved: OutputCounts; loseMoved: ForeseenLosses[] };

/** Labels of the collection that was counted last, as long as they are few enough. */
const mostObjects = 400_000;
let kept: { collection: number; revision: number; images: Map<string, StockImage>; objects: number } | null = null;

async function* imagesOf(
  { collection, revision }: RunRequest,
  keys: readonly string[],
  check: () => void,
): AsyncGenerator<StockImage> {
  if (kept?.collection !== collection || kept.revision !== revision)
    kept = { collection, revision, images: new Map(), objects: 0 };
  const cache = kept;
  const missing = keys.filter((key) => !cache.images.has(key));
  for (const key of keys) {
    const image = cache.images.get(key);
    if (image) yield image;
  }
  for (let at = 0; at < missing.length; at += 400) {
    check();
    for await (const image of labeledImages(db(), collection, missing.slice(at, at + 400))) {
      if (cache.objects < mostObjects) {
        cache.images.set(image.key, image);
        cache.objects += image.objects.length;
      }
      yield image;
    }
  }
}

/** Throws where nobody waits for the answer any more. */
function givingUp(request: RunRequest): () => void {
  const flag = new Int32Array(request.givenUp);
  return () => {
    if (Atomics.load(flag, 0) !== 0) throw new Failure("given-up", "Nobody waits for this answer any more.", 409);
  };
}

async function count(request: RunRequest): Promise<OutputCounts> {
  const check = givingUp(request);
  const { flow, context } = runOf(request.run, request.collection);
  const keys = [...flow.assigned.keys()].sort();
  const stride = Math.max(1, Math.ceil(flow.outputs / mostMoved));
  const some = keys.filter((_, at) => at % stride === 0);
  async function* images() {
    let done = 0;
    for await (const image of imagesOf(request, some, check)) {
      if (done++ % 50 === 0) check();
      yield { image: relabeledImage(image, flow), split: flow.assigned.get(image.key) as Split };
    }
  }
  return countOutputs(images(), context, stride > 1 ? { all: keys.length, sampled: some.length } : undefined);
}

async function lose(request: RunRequest): Promise<ForeseenLosses[]> {
  const check = givingUp(request);
  const { plan, flow, classes, context } = runOf(request.run, request.collection);
  const some = [...flow.assigned.keys()].sort().slice(0, imagesForLosses(plan));
  async function* images() {
    for await (const image of imagesOf(request, some, check)) {
      check();
      yield image;
    }
  }
  return foreseenLosses(images(), { plan, flow, classes, context });
}

/** Errors are told, not thrown. */
async function reply<T>(answer: Promise<T>): Promise<RunReply<T>> {
  try {
    return { answer: await answer };
  } catch (error) {
    return { failure: sentenceFor(error) };
  }
}

/**
 * Counts what a plan's last steps make of images.
 * @public The pool calls it by its name.
 */
export const countMoved = (request: RunRequest): Promise<RunReply<OutputCounts>> => reply(count(request));

/**
 * Says what formats will lose of what a plan's last steps make of images.
 * @public The pool calls it by its name.
 */
export const loseMoved = (request: RunRequest): Promise<RunReply<ForeseenLosses[]>> => reply(lose(request));
