/** Every op on a picture of the demo bakery, through the whole way from plan to pixels: at both ends of its range and in the middle. */
import { polygonArea } from "@larder/core/geometry/polygon";
import { ops } from "@larder/core/imaging/ops/registry";
import type { AnyOp } from "@larder/core/imaging/ops/op";
import { newOpStep } from "@larder/core/plans/augmentations";
import { outputsOf, type OutputContext, type PlannedImage } from "@larder/core/plans/outputs";
import { planSchema } from "@larder/core/plans/plan";
import type { LabeledObject } from "@larder/core/model/item";
import { makeScene } from "@larder/demo/scene";
import { renderScene } from "@larder/demo/render";
import { writeFileSync } from "node:fs";
import sharp from "sharp";
import { beforeAll, expect, it } from "vitest";
import { Renderer } from "./render";

const size = { width: 960, height: 720 };
const shown = { width: 240, height: 180 };
const pictures = new Map<string, Uint8Array>();
const image = (key: string): PlannedImage => ({
  key,
  size,
  orientation: 1,
  state: "labeled",
  objects: [0, 1, 2].map((n): LabeledObject => ({
    class: "roll",
    shape: {
      kind: "polygon",
      parts: [[[300 + 150 * n, 300, 420 + 150 * n, 300, 420 + 150 * n, 400, 300 + 150 * n, 400]]],
    },
  })),
  classes: [],
  captions: [],
  fields: {},
});
const keys = ["1", "2", "3", "4"].map((digit) => digit.repeat(64));

beforeAll(async () => {
  for (const [at, key] of keys.entries()) pictures.set(key, await renderScene(makeScene(20 + at)));
});

/** The op with every number at a place of its default range: 0 the low end, 1 the high one. */
function stepAt(op: AnyOp, place: number): object {
  const step: Record<string, unknown> = newOpStep(op.name);
  for (const [name, parameter] of Object.entries(op.parameters)) {
    if (parameter.kind === "one-of") step[name] = parameter.options[Math.round(place * (parameter.options.length - 1))];
    if (parameter.kind === "tones") step[name] = [{ op: "invert" }];
    if (parameter.kind !== "number") continue;
    const [low, high] =
      typeof parameter.default === "number" ? [parameter.default, parameter.default] : parameter.default;
    const value = low + place * (high - low);
    step[name] = parameter.whole ? Math.round(value) : value;
  }
  return step;
}

it.each(ops.map((op) => [op.name, op] as const))("%s", async (name, op) => {
  const strip: Buffer[] = [];
  for (const place of [0, 0.5, 1]) {
    const plan = planSchema.parse({ seed: 5, augment: { copies: 1, do: [stepAt(op, place)] } });
    const context: OutputContext = {
      plan,
      classes: new Map(),
      repeats: new Map(),
      pool: keys,
      partner: (key) => Promise.resolve(image(key)),
    };
    for await (const output of outputsOf(image(keys[0] as string), "train", context)) {
      if (output.copy === 0) continue;
      const renderer = new Renderer((source) => Promise.resolve(pictures.get(source) as Uint8Array));
      const made = sharp(await renderer.render(output.recipe, "png", 92));
      const metadata = await made.metadata();
      expect([metadata.width, metadata.height]).toEqual([output.size.width, output.size.height]);
      for (const { shape } of output.objects)
        if (shape.kind === "polygon") expect(polygonArea(shape.parts)).toBeGreaterThan(0);
      strip.push(await made.resize({ ...shown, fit: "contain", background: "#ffffff" }).toBuffer());
    }
  }
  expect(strip).toHaveLength(3);
  if (!process.env["LARDER_DRAW_OPS"]) return;
  const file = new URL(`../../docs/ops/${name}.webp`, import.meta.url);
  const joined = sharp({
    create: { width: 3 * shown.width + 16, height: shown.height, channels: 3, background: "#ffffff" },
  });
  const parts = strip.map((input, at) => ({ input, left: at * (shown.width + 8), top: 0 }));
  writeFileSync(file, await joined.composite(parts).webp({ quality: 70 }).toBuffer());
});
