import { describe, expect, it } from "vitest";
import { intersectionOverUnion } from "../geometry/overlap";
import type { Shape } from "../model/shape";
import { cutThing, startedOpenCv, type OpenCv } from "./grab-cut";
import { cropAround, maskOfOutline, outlineOfCrop, toCrop, type Crop } from "./proposal";

const picture = { width: 1000, height: 800 };

describe("what is looked at for a proposal", () => {
  it("is the box with some of its surroundings, no larger than need be, a rim of it outside of the box", () => {
    const crop = cropAround({ x: 100, y: 200, width: 400, height: 200 }, picture);
    expect(crop?.frame).toEqual({ x: 20, y: 120, width: 560, height: 360 });
    expect([crop?.width, crop?.height]).toEqual([320, 206]);
    const all = cropAround({ x: 0, y: 0, width: 1000, height: 800 }, picture) as Crop;
    expect([all.box.x, all.box.y]).toEqual([1, 1]);
    expect([all.box.x + all.box.width, all.box.y + all.box.height]).toEqual([all.width - 1, all.height - 1]);
    expect(toCrop(all, 500, 400)).toEqual([all.width / 2, all.height / 2]);
    expect(cropAround({ x: 1200, y: 5, width: 9, height: 9 }, picture)).toBeNull();
  });
});

describe("the outline of a proposal", () => {
  it("is that of the largest part without holes, in the picture's pixels", () => {
    const crop = cropAround({ x: 300, y: 300, width: 120, height: 120 }, picture) as Crop;
    const pixels = new Uint8Array(crop.width * crop.height);
    for (let y = 0; y < crop.height; y++)
      for (let x = 0; x < crop.width; x++) {
        const [px, py] = [crop.frame.x + x + 0.5, crop.frame.y + y + 0.5];
        const radius = Math.hypot(px - 360, py - 360);
        if ((radius < 50 && radius > 5) || (x < 3 && y < 3)) pixels[y * crop.width + x] = 1;
      }
    const outline = outlineOfCrop(crop, pixels);
    const disc: Shape = {
      kind: "polygon",
      parts: [
        [
          Array.from({ length: 90 }, (_, i) => (i / 90) * 2 * Math.PI).flatMap((angle) => [
            360 + 50 * Math.cos(angle),
            360 + 50 * Math.sin(angle),
          ]),
        ],
      ],
    };
    expect(outline && intersectionOverUnion(outline, disc)).toBeGreaterThan(0.97);
    expect(outline && intersectionOverUnion(maskOfOutline(outline, picture), disc)).toBeGreaterThan(0.97);
    expect(outlineOfCrop(crop, new Uint8Array(crop.width * crop.height))).toBeNull();
  });
});

describe("GrabCut", () => {
  it("is there once OpenCV says so, though OpenCV passes for a promise that never ends", async () => {
    const module: Record<string, unknown> = {};
    module["then"] = (done: (value: unknown) => void) => done(module);
    const started = startedOpenCv(module);
    module["Mat"] = class {};
    (module["onRuntimeInitialized"] as () => void)();
    expect((await started).cv).toBe(module);
    expect((await startedOpenCv(module)).cv).toBe(module);
  });
  it("is told of places inside and outside, and lets go of what it took, also where it fails", () => {
    let open = 0;
    const rounds: number[] = [];
    class Mat {
      data: Uint8Array;
      constructor(rows = 6, columns = 6, type = 0) {
        open++;
        this.data = new Uint8Array(rows * columns * (type === 16 ? 3 : 1)).fill(type === 16 ? 0 : 2);
      }
      delete() {
        open--;
      }
    }
    const cv = {
      ...{ Mat, Rect: class {}, CV_8UC3: 16, GC_INIT_WITH_RECT: 0, GC_INIT_WITH_MASK: 1 },
      grabCut: (...given: unknown[]) => void rounds.push(given[5] as number),
    } as OpenCv;
    const request = {
      ...{ pixels: new Uint8Array(6 * 6 * 4), width: 6, height: 6, box: { x: 1, y: 1, width: 4, height: 4 } },
      ...{ inside: [] as number[], outside: [] as number[] },
    };
    expect(cutThing(cv, request).some((value) => value === 1)).toBe(false);
    const said = cutThing(cv, { ...request, inside: [5.5, 5.5], outside: [0, 0] });
    expect([said[35], said[0], rounds.length]).toEqual([1, 0, 3]);
    cv.grabCut = () => {
      throw new Error("no memory");
    };
    expect(() => cutThing(cv, request)).toThrow("no memory");
    expect(open).toBe(0);
  });
});
