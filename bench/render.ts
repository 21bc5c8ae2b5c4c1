/**
 * Rendering 1280 × 960 JPEGs to fit 640 × 640 with rotation, brightness and saturation, two copies of each, against the
 * plain chain of the image library's own steps and against OpenCV in Python; all cores on every side, in one run.
 */
import { Draws } from "@larder/core/model/seeded";
import { outputsOf, type OutputContext, type PlannedImage, type PlannedOutput } from "@larder/core/plans/outputs";
import { planSchema, type Plan } from "@larder/core/plans/plan";
import { closeRenderers, imagesUnderWay, renderOutputs } from "@larder/server/pixels/render-pool";
import { settings } from "@larder/server/settings";
import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { availableParallelism, tmpdir } from "node:os";
import path from "node:path";
import pLimit from "p-limit";
import sharp from "sharp";

const size = { width: 1280, height: 960 };
const quality = 92;

/** Pictures with edges, colours and grain, as cameras take them. */
async function pictures(count: number): Promise<Uint8Array[]> {
  const made: Uint8Array[] = [];
  for (let n = 0; n < count; n++) {
    const draws = new Draws("bench", n);
    const shapes = Array.from({ length: 60 }, () => {
      const [x, y, r] = [draws.between(0, 1280), draws.between(0, 960), draws.between(10, 120)];
      const colour = [0, 1, 2].map(() => draws.whole(0, 255)).join(",");
      return `<ellipse cx="${x}" cy="${y}" rx="${r}" ry="${r * draws.between(0.4, 1)}" fill="rgb(${colour})"/>`;
    });
    const svg = `<svg width="1280" height="960"><rect width="1280" height="960" fill="#567"/>${shapes.join("")}</svg>`;
    const grain = await sharp({
      create: { ...size, channels: 3, noise: { type: "gaussian", mean: 128, sigma: 12 }, background: "#808080" },
    })
      .png()
      .toBuffer();
    made.push(
      await sharp(Buffer.from(svg))
        .composite([{ input: grain, blend: "soft-light" }])
        .flatten()
        .jpeg({ quality: 90 })
        .toBuffer(),
    );
  }
  return made;
}

const keyOf = (n: number) => String(n).padStart(64, "0");

async function outputsOfAll(count: number, plan: Plan): Promise<PlannedOutput[][]> {
  const context: OutputContext = {
    plan,
    classes: new Map(),
    repeats: new Map(),
    pool: [],
    partner: () => Promise.reject(new Error("no partners")),
  };
  return Promise.all(
    Array.from({ length: count }, async (_, n) => {
      const image: PlannedImage = {
        key: keyOf(n),
        size,
        orientation: 1,
        state: "empty",
        objects: [],
        classes: [],
        captions: [],
        fields: {},
      };
      const outputs: PlannedOutput[] = [];
      for await (const output of outputsOf(image, "train", context)) outputs.push(output);
      return outputs;
    }),
  );
}

async function seconds(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await work();
  return (performance.now() - began) / 1000;
}

async function larder(files: readonly Uint8Array[], plan: Plan): Promise<number> {
  const all = await outputsOfAll(files.length, plan);
  const limit = pLimit(imagesUnderWay());
  const read = (key: string) => Promise.resolve(files[Number(key)] as Uint8Array);
  const render = (outputs: PlannedOutput[]) =>
    renderOutputs(
      outputs.map(({ recipe }) => ({ recipe, kind: "jpg" })),
      quality,
      read,
    );
  // Threads are started before the clock runs, as the other sides are.
  await Promise.all(all.slice(0, 4).map(render));
  return seconds(() => Promise.all(all.map((outputs) => limit(() => render(outputs)))));
}

/** The plain chain: each output by the library's own steps, one picture a thread. */
async function chain(files: readonly Uint8Array[], copies: number): Promise<number> {
  const limit = pLimit(availableParallelism() * 2);
  return seconds(() =>
    Promise.all(
      files.flatMap((bytes, n) =>
        Array.from({ length: copies + 1 }, (_, copy) =>
          limit(async () => {
            const resized = sharp(bytes).resize(640, 640, { fit: "inside" });
            if (copy === 0) return resized.jpeg({ quality }).toBuffer();
            const draws = new Draws("chain", n, copy);
            const angle = (draws.between(-15, 15) * Math.PI) / 180;
            const turned = resized
              .affine([
                [Math.cos(angle), -Math.sin(angle)],
                [Math.sin(angle), Math.cos(angle)],
              ])
              .modulate({ brightness: draws.between(0.8, 1.2), saturation: draws.between(0.7, 1.3) });
            return turned.jpeg({ quality }).toBuffer();
          }),
        ),
      ),
    ),
  );
}

/** The same by OpenCV, by as many processes as there are cores. */
function openCv(files: readonly Uint8Array[], copies: number): number {
  const folder = mkdtempSync(path.join(tmpdir(), "larder-bench-render-"));
  try {
    files.forEach((bytes, n) => writeFileSync(path.join(folder, `${n}.jpg`), bytes));
    const script = path.join(settings().root, "bench", "render_opencv.py");
    const words = [script, folder, String(copies), String(availableParallelism()), String(quality)];
    return Number(execFileSync("/usr/bin/python3", words, { encoding: "utf8" }));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

async function plainResize(files: readonly Uint8Array[]): Promise<number> {
  const limit = pLimit(availableParallelism() * 2);
  return seconds(() =>
    Promise.all(
      files.map((bytes) => limit(() => sharp(bytes).resize(640, 640, { fit: "inside" }).jpeg({ quality }).toBuffer())),
    ),
  );
}

export async function benchRender(count: number): Promise<void> {
  const copies = 2;
  const resize = { mode: "fit", width: 640, height: 640 };
  const plan = planSchema.parse({
    prepare: { resize },
    augment: {
      copies,
      do: [
        { op: "rotate", degrees: [-15, 15] },
        { op: "brightness", by: [-0.2, 0.2] },
        { op: "saturation", by: [-0.3, 0.3] },
      ],
    },
  });
  const files = await pictures(count);
  const outputs = count * (copies + 1);
  console.log(`Rendering ${count} JPEGs of 1280 × 960 to ${outputs} within 640 × 640, rotated and toned:`);
  sharp.concurrency(1);
  for (let round = 1; round <= 3; round++) {
    const own = await larder(files, plan);
    const library = await chain(files, copies);
    const python = openCv(files, copies);
    const say = (seconds_: number) => `${(outputs / seconds_).toFixed(0)} a second`;
    console.log(
      `round ${round}: ${say(own)}; the library's chain ${say(library)}, ratio ${(library / own).toFixed(2)} (aim 3); OpenCV ${say(python)}, ratio ${(python / own).toFixed(2)} (aim 1.5)`,
    );
    const still = planSchema.parse({ prepare: { resize } });
    const [resized, bare] = [await larder(files, still), await plainResize(files)];
    console.log(`         resizing alone: ratio to bare sharp ${(bare / resized).toFixed(2)} (aim 0.95)`);
  }
  await closeRenderers();
}
