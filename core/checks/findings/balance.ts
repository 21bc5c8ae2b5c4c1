/** Classes and splits by numbers: what is rare, missing, uneven or left over. */
import { splitNames } from "../../model/item";
import { selecting } from "../../selection/dimensions";
import { imagesAsProofs, plural, type Check, type CheckedStock, type Found, type Proof } from "../check";

/** The images that hold a class, as objects of it or as a whole. */
function holding({ snapshot, slots }: CheckedStock, name: string): Proof[] {
  const id = snapshot.classes.find((one) => one.name === name)?.id;
  if (id === undefined) return [];
  const index = snapshot.classIndex(id);
  const proofs: Proof[] = [];
  for (const slot of slots) {
    const objects: number[] = [];
    const first = snapshot.firstObject.at(slot);
    for (let object = first; object < first + snapshot.objectCount.at(slot); object++)
      if (snapshot.objectClass.at(object) === index) objects.push(object);
    const set = snapshot.classSet.at(slot);
    if (objects.length > 0 || (set > 0 && snapshot.classesIn(set).includes(id))) proofs.push({ slot, objects });
  }
  return proofs;
}

const used = ({ tallies }: CheckedStock) => tallies.filter(({ objects }) => objects > 0);

/** Images of each split and of none, in the order of `splitNames`, none first. */
export function splitSizes({ snapshot, slots }: CheckedStock): number[] {
  const sizes = [0, 0, 0, 0];
  for (const slot of slots) sizes[snapshot.split.at(slot)] = (sizes[snapshot.split.at(slot)] as number) + 1;
  return sizes;
}

export const classUnused: Check = {
  code: "class-unused",
  severity: "info",
  counts: "classes",
  means: "Classes that no object and no image in stock has.",
  threshold: null,
  *find({ tallies }) {
    for (const { name, objects } of tallies)
      if (objects === 0)
        yield { subject: name, sentence: `Nothing in stock is labeled ${name}.`, count: 1, proofs: [], where: null };
  },
};

export const classRare: Check = {
  code: "class-rare",
  severity: "warning",
  counts: "classes",
  means:
    "Classes with fewer examples (objects and image-level classes) than are enough to learn from and to measure by.",
  threshold: { unit: "examples", usual: 20, least: 1, most: 100_000, step: 1 },
  *find(stock, least) {
    for (const { name, objects, images } of used(stock))
      if (objects < least)
        yield {
          subject: name,
          sentence: `${name} has only ${plural(objects, "example", "examples")}, on ${plural(images, "image", "images")}.`,
          count: objects,
          proofs: holding(stock, name),
          where: selecting({ class: [name] }),
        };
  },
};

export const classLacksSplit: Check = {
  code: "class-lacks-split",
  severity: "warning",
  counts: "classes",
  means:
    "Classes of which a split that holds images has no example: what is not in train is not learned, what is not in val and test is not measured.",
  threshold: null,
  *find(stock) {
    const sizes = splitSizes(stock);
    for (const [n, split] of splitNames.entries())
      for (const { name, objects, bySplit } of (sizes[n + 1] as number) > 0 ? used(stock) : [])
        if (bySplit[split] === 0)
          yield {
            subject: `${split} ${name}`,
            sentence: `${split} holds no ${name}.`,
            count: objects,
            proofs: holding(stock, name),
            where: selecting({ class: [name] }),
          };
  },
};

export const classesUneven: Check = {
  code: "classes-uneven",
  severity: "info",
  counts: "classes",
  means: "How many times as many examples the most common class has as the rarest.",
  threshold: { unit: "times", usual: 10, least: 2, most: 10_000, step: 1 },
  *find(stock, most) {
    const byCount = used(stock).sort((a, b) => a.objects - b.objects);
    const [least, greatest] = [byCount[0], byCount.at(-1)];
    if (!least || !greatest || greatest.objects <= most * least.objects) return;
    yield {
      subject: "",
      sentence: `There are ${Math.round(greatest.objects / least.objects)} times as many ${greatest.name} as ${least.name}.`,
      count: greatest.objects,
      proofs: holding(stock, least.name),
      where: selecting({ class: [least.name] }),
    };
  },
};

/** A class that fewer images hold than this may be in one delivery by chance. */
const fewImages = 5;

/** By the index of a class the only delivery that has it, by its index; null where several have. */
function onlyDeliveries({ snapshot, slots }: CheckedStock): Map<number, number | null> {
  const { firstObject, objectCount, objectClass } = snapshot;
  const only = new Map<number, number | null>();
  // What several have already need not be asked again.
  const spread = new Uint8Array(snapshot.classIds.length);
  const take = (index: number, delivery: number) => {
    const known = only.get(index);
    if (known === undefined) only.set(index, delivery);
    else if (known !== null && known !== delivery) {
      only.set(index, null);
      spread[index] = 1;
    }
  };
  for (const slot of slots) {
    const delivery = snapshot.delivery.at(slot);
    const first = firstObject.at(slot);
    const end = first + objectCount.at(slot);
    for (let object = first; object < end; object++) {
      const index = objectClass.at(object);
      if (spread[index] === 0) take(index, delivery);
    }
    const set = snapshot.classSet.at(slot);
    if (set > 0) for (const id of snapshot.classesIn(set)) take(snapshot.classIndex(id), delivery);
  }
  return only;
}

export const classInOneDelivery: Check = {
  code: "class-one-delivery",
  severity: "info",
  counts: "classes",
  means: `Classes that only one of several deliveries has, on ${fewImages} images or more: what is learned of them may be what is peculiar to the delivery.`,
  threshold: null,
  *find(stock) {
    const { snapshot, slots } = stock;
    const first = snapshot.delivery.at(slots[0] ?? 0);
    if (slots.every((slot) => snapshot.delivery.at(slot) === first)) return;
    const onlyOnes = onlyDeliveries(stock);
    const ids = new Map(snapshot.classes.map(({ id, name }) => [name, id]));
    for (const { name, images } of used(stock)) {
      const only = onlyOnes.get(snapshot.classIndex(ids.get(name) ?? 0)) ?? null;
      if (images < fewImages || only === null) continue;
      const proofs = holding(stock, name);
      const delivery = snapshot.deliveries.find(({ id }) => id === snapshot.deliveryIds[only])?.name ?? "one delivery";
      const sentence = `All ${plural(images, "image", "images")} with ${name} came with ${delivery}.`;
      yield { subject: name, sentence, count: images, proofs, where: selecting({ class: [name] }) };
    }
  },
};

export const splitSmall: Check = {
  code: "split-small",
  severity: "warning",
  counts: "splits",
  means: "Splits with a smaller share of the images that have one: they measure little.",
  threshold: { unit: "%", usual: 5, least: 0.1, most: 50, step: 0.1 },
  *find(stock, least) {
    const sizes = splitSizes(stock);
    const dealt = sizes.slice(1).reduce((sum, size) => sum + size, 0);
    for (const [n, split] of splitNames.entries()) {
      const size = sizes[n + 1] as number;
      if (size === 0 || (100 * size) / dealt >= least) continue;
      const { snapshot, slots } = stock;
      yield {
        subject: split,
        sentence: `${split} holds ${plural(size, "image", "images")}, less than ${least}% of what has a split.`,
        count: size,
        proofs: imagesAsProofs(slots.filter((slot) => snapshot.split.at(slot) === n + 1)),
        where: selecting({ split: [split] }),
      };
    }
  },
};

export const splitEmpty: Check = {
  code: "split-empty",
  severity: "info",
  counts: "splits",
  means: "Splits without an image, while another one has some.",
  threshold: null,
  *find(stock) {
    const sizes = splitSizes(stock);
    if (sizes.slice(1).every((size) => size === 0)) return;
    for (const [n, split] of splitNames.entries())
      if (sizes[n + 1] === 0)
        yield { subject: split, sentence: `${split} holds no image.`, count: 1, proofs: [], where: null };
  },
};

/** Fewer expected examples than this in a cell, and the chi-square distribution does not hold (Cochran, 1954). */
const leastExpected = 5;

export const splitDiffers: Check = {
  code: "split-differs",
  severity: "warning",
  counts: "splits",
  means:
    "Splits whose classes are in other proportions than those of all others: the chi-square test of homogeneity (Pearson, 1900), its effect as " +
    "Cramér's V (Cramér, 1946), 0 for the same proportions and 1 for wholly other ones. Classes with fewer than 5 examples expected in the split do not count.",
  threshold: { unit: "hundredths of V", usual: 15, least: 1, most: 100, step: 1 },
  *find(stock, least) {
    const examples = new Map(
      splitNames.map((split) => [split, stock.tallies.reduce((sum, { bySplit }) => sum + bySplit[split], 0)]),
    );
    const held = splitNames.filter((split) => (examples.get(split) ?? 0) > 0);
    // Of two splits each differs from the other: that is one thing to say.
    const judged =
      held.length > 2 ? held : held.sort((a, b) => (examples.get(a) ?? 0) - (examples.get(b) ?? 0)).slice(0, 1);
    for (const split of judged) {
      const rows = used(stock).map(({ name, bySplit }) => {
        const others = splitNames.reduce((sum, other) => sum + (other === split ? 0 : bySplit[other]), 0);
        return { name, here: bySplit[split], others };
      });
      const { v, worst } = cramersV(rows);
      if (v === null || worst === null || 100 * v < least) continue;
      const { name, share, usual } = worst;
      const percent = (value: number) => `${(100 * value).toFixed(1)}%`;
      const { snapshot, slots } = stock;
      yield {
        subject: split,
        sentence: `The classes of ${split} are in other proportions than elsewhere (V ${v.toFixed(2)}): ${percent(share)} is ${name}, ${percent(usual)} elsewhere.`,
        count: rows.reduce((sum, { here }) => sum + here, 0),
        proofs: imagesAsProofs(slots.filter((slot) => snapshot.split.at(slot) === splitNames.indexOf(split) + 1)),
        where: selecting({ split: [split] }),
      };
    }
  },
};

type Row = { name: string; here: number; others: number };

/**
 * Cramér's V of two columns of counts, and the row whose share differs most; null where there is too little to say so, or
 * where the chi-square test does not reject equal proportions at 1 in 100 (Wilson & Hilferty's approximation, 1931).
 */
export function cramersV(all: readonly Row[]): {
  v: number | null;
  worst: { name: string; share: number; usual: number } | null;
} {
  const total = (key: "here" | "others", rows: readonly Row[]) => rows.reduce((sum, row) => sum + row[key], 0);
  const [hereAll, othersAll] = [total("here", all), total("others", all)];
  const rows = all.filter(({ here, others }) => {
    const expected = ((here + others) * Math.min(hereAll, othersAll)) / Math.max(1, hereAll + othersAll);
    return expected >= leastExpected;
  });
  const [here, others] = [total("here", rows), total("others", rows)];
  const none = { v: null, worst: null };
  if (rows.length < 2 || here === 0 || others === 0) return none;
  let square = 0;
  let worst: { name: string; share: number; usual: number } | null = null;
  for (const row of rows) {
    for (const [count, column] of [
      [row.here, here],
      [row.others, others],
    ] as const) {
      const expected = ((row.here + row.others) * column) / (here + others);
      square += (count - expected) ** 2 / expected;
    }
    const [share, usual] = [row.here / here, row.others / others];
    if (!worst || Math.abs(share - usual) > Math.abs(worst.share - worst.usual) + 1e-9)
      worst = { name: row.name, share, usual };
  }
  const freedom = rows.length - 1;
  const deviation = ((square / freedom) ** (1 / 3) - (1 - 2 / (9 * freedom))) / Math.sqrt(2 / (9 * freedom));
  const rejectedFrom = 2.326;
  return deviation < rejectedFrom ? none : { v: Math.sqrt(square / (here + others)), worst };
}

export const unlabeledLeft: Check = {
  code: "unlabeled-left",
  severity: "info",
  counts: "images",
  means: "Images in stock of which nothing is said, not even that they are empty.",
  threshold: null,
  *find({ snapshot, slots }) {
    const waiting = slots.filter((slot) => snapshot.state.at(slot) === 0);
    if (waiting.length > 0) yield unlabeled(waiting, slots.length);
  },
};

const unlabeled = (waiting: Uint32Array, all: number): Found => ({
  subject: "",
  sentence: `${plural(waiting.length, "image waits", "images wait")} for a label, ${((100 * waiting.length) / all).toFixed(1)}% of all.`,
  count: waiting.length,
  proofs: imagesAsProofs(waiting),
  where: selecting({ state: ["unlabeled"] }),
});
