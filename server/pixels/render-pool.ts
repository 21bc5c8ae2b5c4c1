/** Renders outputs on all cores: one image's outputs are one task, so that what is decoded is decoded once. */
import { sourcesOf, type Recipe } from "@larder/core/imaging/recipe";
import { Failure } from "@larder/core/model/failure";
import { availableParallelism } from "node:os";
import { Piscina } from "piscina";
import { programFile } from "../program-file";
import type { ReadSource } from "./render";
import type { RenderReply, RenderTask } from "./render-thread";

const shared = globalThis as { larderRenderers?: Piscina<RenderTask, RenderReply> | undefined };

function start(): Piscina<RenderTask, RenderReply> {
  return new Piscina<RenderTask, RenderReply>({
    // A file of the sources, not of the pages' bundle.
    filename: programFile("render-thread"),
    name: "renderTask",
    minThreads: 0,
    maxThreads: availableParallelism(),
    concurrentTasksPerWorker: 2,
    idleTimeout: 10_000,
    atomics: "disabled",
  });
}

/** How many images are worked on side by side, with one more waiting for each. */
export const imagesUnderWay = (): number => 2 * availableParallelism();

/**
 * The files of outputs that share their first source, each of its kind (jpg, png, webp) at `quality`, 0 … 100. Throws a
 * Failure where a source cannot be read or decoded.
 */
export async function renderOutputs(
  outputs: readonly { recipe: Recipe; kind: string }[],
  quality: number,
  read: ReadSource,
): Promise<Uint8Array[]> {
  const keys = [...new Set(outputs.flatMap(({ recipe }) => sourcesOf(recipe)))];
  const sources = new Map<string, Uint8Array>();
  for (const key of keys) sources.set(key, await read(key));
  const reply = await (shared.larderRenderers ??= start()).run({ outputs, quality, sources });
  if ("failure" in reply) throw new Failure(reply.failure.code, reply.failure.message);
  return reply.files;
}

/** Ends the threads, for tests and for commands that are done. */
export async function closeRenderers(): Promise<void> {
  const threads = shared.larderRenderers;
  shared.larderRenderers = undefined;
  await threads?.destroy();
}
