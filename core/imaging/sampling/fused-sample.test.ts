import { describe, expect, it } from "vitest";
import { affine, centred, compose, invert, scaling } from "../../geometry/transform";
import { applyTones } from "../tone/apply-tones";
import type { ColourRaster } from "../ops/op";
import { toneOf } from "../ops/tones";
import { fusedSample } from "./fused-sample";
import { sampleParts } from "./sample-parts";

const size = { width: 90, height: 70 };
const data = Uint8Array.from({ length: size.width * size.height * 3 }, (_, at) => (at * 7919 + (at >> 3)) % 256);
const raster: ColourRaster = { data, ...size, channels: 3 };
const tones = [
  toneOf({ op: "brightness", values: { by: 0.15 } }),
  toneOf({ op: "saturation", values: { by: -0.4 } }),
  toneOf({ op: "contrast", values: { by: 0.3 } }),
];
const turn = centred(affine(Math.cos(0.4), Math.sin(0.4), -Math.sin(0.4), Math.cos(0.4), 3, -5), 45, 35);

describe("the fused pass", () => {
  it.each([
    ["turned", turn],
    ["shrunk and moved", compose(turn, scaling(0.8, 0.9))],
    ["mirrored", affine(-1, 0, 0, 1, size.width, 0)],
  ])("%s is within a level of what is sampled, toned and rounded one after the other", (_, warp) => {
    // A colour beyond the picture takes the other way; its places beyond are not compared.
    const slow = sampleParts([{ raster, toFrame: [1, 0, 0, 0, 1, 0, 0, 0, 1] }], {
      frame: size,
      warp,
      size,
      outside: "mirror",
    }) as ColourRaster;
    applyTones(slow, tones);
    const fast = fusedSample(raster, invert(warp), size, tones) as Uint8Array;
    const back = invert(warp);
    let compared = 0;
    for (let y = 0; y < size.height; y++)
      for (let x = 0; x < size.width; x++) {
        const [u, v] = [
          back[0] * (x + 0.5) + back[1] * (y + 0.5) + back[2],
          back[3] * (x + 0.5) + back[4] * (y + 0.5) + back[5],
        ];
        if (u < 1 || v < 1 || u > size.width - 1 || v > size.height - 1) continue;
        for (let at = (y * size.width + x) * 3; at < (y * size.width + x) * 3 + 3; at++) {
          // The slow way rounds once more in between, which contrast makes larger.
          expect(Math.abs((fast[at] as number) - (slow.data[at] as number))).toBeLessThanOrEqual(1);
          compared++;
        }
      }
    expect(compared).toBeGreaterThan(5000);
  });
  it("leaves pictures of other kinds to the other way", () => {
    expect(fusedSample({ ...raster, data: new Uint16Array(data.length) }, turn, size, [])).toBeNull();
    expect(fusedSample(raster, affine(1, 0, 0, 1, 1e6, 0), size, [])).toBeNull();
  });
});
