/** Checks: how long they take over a large stock, how many neighbours are found, and what they find of planted faults. */
import { doubtfulLabels, imageProbablyMislabeled, probablyMislabeled } from "@larder/core/checks/findings/looks";
import { bytesEach, nearCopyBits, nearPairs } from "@larder/core/checks/near-copies";
import { stockNumbers } from "@larder/core/checks/numbers/stock-numbers";
import { checkedStockOf } from "@larder/core/checks/checked-stock";
import { Judgements } from "@larder/core/checks/judgements";
import { allChecks, takeStock } from "@larder/core/checks/stocktake";
import { featureDistance, featureLength } from "@larder/core/learning/features";
import { imageFeatures, packFeatures } from "@larder/core/learning/image-features";
import { nearestNeighbours } from "@larder/core/learning/nearest";
import { Learned } from "@larder/core/snapshot/learned";
import { blankImage, smallSnapshot } from "@larder/core/tests/small-snapshot";
import { drawScene } from "@larder/demo/render";
import { frame, makeScene } from "@larder/demo/scene";
import { trueBreads } from "@larder/demo/truth";
import { setFlagsFromString } from "node:v8";
import { runInNewContext } from "node:vm";
import { milliseconds } from "./timing";

/** Numbers from 0 to 1, the same each time. */
function dealer(seed: number): () => number {
  let state = seed;
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
}

const seconds = (took: number) => `${(took / 1000).toFixed(1)} s`;
type FourNumbers = readonly [number, number, number, number];
const splits = ["train", "train", "train", "val", "test"] as const;

const measures = { brightness: 120, contrast: 50, cast: 8, sharpness: 400, burnt: 0 };
const withoutNeighbours = allChecks.filter(
  (check) => check !== probablyMislabeled && check !== imageProbablyMislabeled,
);

async function benchTimes(images: number, objectsEach: number): Promise<void> {
  const random = dealer(3);
  const names = Array.from({ length: 12 }, (_, n) => `bread ${n}`);
  const learned = new Learned();
  const snapshot = smallSnapshot(
    names,
    Array.from({ length: images }, (_, n) => {
      const objects = Array.from({ length: objectsEach }, () => ({
        of: Math.floor(random() * 12),
        box: [random() * 1200, random() * 900, 10 + random() * 60, 10 + random() * 50].map(
          Math.fround,
        ) as unknown as FourNumbers,
      }));
      const seen = objects.map(({ of, box: [x, y, width, height] }) => ({
        box: { x, y, width, height },
        features: Uint8Array.from({ length: featureLength }, (_, at) => ((of * 37 * (at + 1)) % 180) + random() * 70),
      }));
      learned.put(n + 1, packFeatures(new Uint8Array(featureLength), seen), n + 1, measures);
      return {
        ...{ width: 1280, height: 960, split: splits[n % 5] as (typeof splits)[number], delivery: 1 + (n % 2) },
        ...(n % 50 === 1 ? { nearCopies: [n] } : {}),
        objects: objects.map(({ of, box }) => ({ of: names[of] as string, box })),
      };
    }),
  );
  // What making the stock up left behind is no part of it.
  setFlagsFromString("--expose-gc");
  const collectGarbage = runInNewContext("gc") as () => void;
  for (let round = 0; round < 2; round++) collectGarbage();
  const slots = Uint32Array.from({ length: images }, (_, slot) => slot);
  const stock = checkedStockOf(snapshot, slots, learned);
  const took = await milliseconds(() => Promise.resolve(takeStock(stock, {}, new Map(), withoutNeighbours)));
  const judgements = new Judgements(snapshot);
  // What was compared before is kept beside the stock.
  const looks = { labels: [], images: [], unlike: [] };
  const again = () => {
    const present = { ...checkedStockOf(snapshot, slots, null, learned), looks };
    return takeStock(present, {}, new Map(), allChecks, judgements);
  };
  again();
  const middle = Math.floor(images / 2);
  snapshot.putImage({ ...blankImage, id: middle, hash: new Uint8Array(32), name: "changed.jpg" });
  const changed = await milliseconds(() => Promise.resolve(again()));
  const counted = await milliseconds(() => Promise.resolve(stockNumbers(stock, 640)));
  console.log(
    `  ${images.toLocaleString("en-US")} images, ${(images * objectsEach).toLocaleString("en-US")} objects with features: all but neighbours ${seconds(took)} (aim: 3 s),`,
  );
  console.log(
    `    after one image changed ${Math.round(changed)} ms (aim: 300 ms), numbers ${seconds(counted)}, memory resident with all of it ${Math.round(process.memoryUsage().rss / 2 ** 20)} MB (aim: 1,024)`,
  );
}

async function benchNearCopies(images: number): Promise<void> {
  const random = dealer(5);
  const hashes = Uint8Array.from({ length: images * bytesEach }, () => random() * 256);
  let pairs = 0;
  const took = await milliseconds(() => {
    pairs = nearPairs(hashes, new Uint8Array(0), { bytesEach, within: nearCopyBits, mostEach: 10 }).length;
    return Promise.resolve();
  });
  console.log(
    `  near-copies of ${images.toLocaleString("en-US")} hashes: ${seconds(took)} (aim: 20 s), ${pairs} pairs`,
  );
}

/** Features of things that look like one of some kinds, each a little different, as cut-outs of breads are. */
async function benchNeighbours(count: number): Promise<void> {
  const random = dealer(9);
  const kinds = Array.from({ length: 60 }, () => Array.from({ length: featureLength }, () => random() * 255));
  const bytes = new Uint8Array(count * featureLength);
  for (let item = 0; item < count; item++) {
    const kind = kinds[item % kinds.length] as number[];
    const away = 10 + random() * 50;
    for (let n = 0; n < featureLength; n++)
      bytes[item * featureLength + n] = Math.min(255, Math.max(0, (kind[n] as number) + (random() - 0.5) * away));
  }
  const places = Int32Array.from({ length: count }, (_, item) => item * featureLength);
  const k = 10;
  let found = new Int32Array(0);
  const took = await milliseconds(() => {
    found = Int32Array.from(nearestNeighbours(bytes, places, k));
    return Promise.resolve();
  });
  let [hits, all] = [0, 0];
  for (let nth = 0; nth < 100; nth++) {
    const item = Math.floor((nth * count) / 100);
    const near = Array.from(places, (place, other) => ({
      other,
      distance: other === item ? Infinity : featureDistance(bytes, item * featureLength, bytes, place),
    }));
    near.sort((a, b) => a.distance - b.distance);
    const wanted = new Set(near.slice(0, k).map(({ other }) => other));
    for (const other of found.subarray(item * k, item * k + k)) if (wanted.has(other)) hits++;
    all += k;
  }
  console.log(
    `  ${k} nearest of ${count.toLocaleString("en-US")} features of ${featureLength}: ${seconds(took)} (aim: 60 s), recall ${(hits / all).toFixed(3)} (aim: 0.98)`,
  );
}

/** Wrong labels put onto breads of the demo: where they stand among the doubtful ones, surest first. */
function benchTruth(trays: number, share: number): void {
  const random = dealer(11);
  const scenes = Array.from({ length: trays }, (_, n) => makeScene(n + 1));
  const kinds = [...new Set(scenes.flatMap((scene) => trueBreads(scene).map(({ kind }) => kind)))];
  const learned = new Learned();
  const planted = new Set<number>();
  let objects = 0;
  const images = scenes.map((scene, n) => {
    const breads = trueBreads(scene);
    const pixels = { data: drawScene(scene), ...frame, channels: 3 };
    learned.put(
      n + 1,
      imageFeatures(
        pixels,
        frame,
        breads.map(({ box }) => box),
      ),
      n + 1,
    );
    return {
      ...frame,
      objects: breads.map(({ kind, box: { x, y, width, height } }) => {
        const isWrong = random() < share;
        if (isWrong) planted.add(objects);
        objects++;
        const others = kinds.filter((other) => other !== kind);
        const of = isWrong ? (others[Math.floor(random() * others.length)] as string) : kind;
        return { of, box: [x, y, width, height] as const };
      }),
    };
  });
  const snapshot = smallSnapshot(kinds, images);
  const slots = Uint32Array.from(images, (_, slot) => slot);
  const doubts = doubtfulLabels({ snapshot, slots, learned, tallies: [] });
  const first = Math.ceil(0.02 * objects);
  const within = doubts.slice(0, first).filter(({ object }) => planted.has(object)).length;
  const found = doubts.filter(({ object }) => planted.has(object)).length;
  const surest = doubts.filter(({ sure }) => sure >= 0.7);
  const false_ = surest.filter(({ object }) => !planted.has(object)).length;
  console.log(
    `  ${planted.size} wrong labels among ${objects.toLocaleString("en-US")}: ${found} doubted, ${within} of them within the first 2% (${first}); at the usual threshold ${surest.length} said, ${false_} of them false alarms`,
  );
}

export async function benchChecks(): Promise<void> {
  console.log("checks:");
  // First, while nothing else is in memory.
  await benchTimes(100_000, 10);
  benchTruth(200, 0.01);
  await benchNearCopies(100_000);
  await benchNeighbours(20_000);
  await benchNeighbours(100_000);
}
