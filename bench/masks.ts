/** Run-length masks and polygons in numbers a second. */
import { polygonToMask } from "@larder/core/geometry/rasterise";
import { bitmapFromRuns, decodeCounts, encodeCounts, runsFromBitmap } from "@larder/core/geometry/run-length";

const side = 1000;

/** A blob with a wavy edge and a hole, like a mask somebody drew. */
function outline(seed: number): number[] {
  return Array.from({ length: 120 }, (_, n) => {
    const angle = (n / 120) * 2 * Math.PI;
    const radius = 300 + 60 * Math.sin(5 * angle + seed) + 25 * Math.cos(11 * angle + 2 * seed);
    return [500 + radius * Math.cos(angle), 500 + radius * Math.sin(angle)];
  }).flat();
}

function seconds(work: () => void): number {
  const began = performance.now();
  work();
  return (performance.now() - began) / 1000;
}

export function benchMasks(): void {
  const count = 1000;
  const outlines = Array.from({ length: count }, (_, n) => outline(n / 7));
  const runs: number[][] = [];
  const painting = seconds(() => outlines.forEach((ring) => runs.push(polygonToMask([[ring]], side, side))));
  const bitmap = bitmapFromRuns(runs[0] ?? [], side, side);
  const megabytes = (count * side * side) / 2 ** 20;
  const encoding = seconds(() => runs.forEach(() => void encodeCounts(runsFromBitmap(bitmap, side, side))));
  const texts = runs.map(encodeCounts);
  const decoding = seconds(() => texts.forEach((text) => void bitmapFromRuns(decodeCounts(text) ?? [], side, side)));
  console.log(`${count} masks of ${side} × ${side}:`);
  console.log(`  bitmap to run-length text  ${Math.round(megabytes / encoding).toLocaleString("en-US")} MB/s`);
  console.log(`  run-length text to bitmap  ${Math.round(megabytes / decoding).toLocaleString("en-US")} MB/s`);
  console.log(
    `  polygons rasterised        ${Math.round(count / painting).toLocaleString("en-US")} a second (120 corners, about ${Math.round(bitmap.reduce((sum, bit) => sum + bit, 0) / 1000)} thousand pixels each)`,
  );
}
