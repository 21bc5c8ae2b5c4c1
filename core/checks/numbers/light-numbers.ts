/** What pictures are like as a whole, and when they were shot. */
import type { CheckedStock } from "../check";
import { Counts, Histogram, type Bar } from "./bars";

export type LightNumbers = {
  /** Empty where nothing is measured. */
  brightness: Bar[];
  contrast: Bar[];
  cast: Bar[];
  sharpness: Bar[];
  /** Hours of the day, 0 … 23, of pictures whose time is known. */
  hours: Bar[];
};

const shown = ["brightness", "contrast", "cast", "sharpness"] as const;
const hourNames = Array.from({ length: 24 }, (_, hour) => String(hour).padStart(2, "0"));

export function lightNumbers({ snapshot, slots, measures }: CheckedStock): LightNumbers {
  const histograms = {
    brightness: new Histogram([25, 50, 75, 100, 125, 150, 175, 200, 225]),
    contrast: new Histogram([10, 20, 30, 40, 50, 60, 70, 80]),
    cast: new Histogram([5, 10, 20, 30, 40, 60, 80]),
    sharpness: new Histogram([10, 30, 100, 300, 1000, 3000, 10_000]),
  };
  const hours = new Counts();
  const known = measures?.measuresOf(snapshot);
  let isMeasured = false;
  for (const slot of slots) {
    const id = snapshot.ids.at(slot);
    const taken = snapshot.taken.at(slot);
    if (!Number.isNaN(taken)) hours.add(hourNames[new Date(taken).getUTCHours()] as string, id);
    if (!known || Number.isNaN(known.brightness[slot])) continue;
    isMeasured = true;
    for (const name of shown) histograms[name].add(known[name][slot] as number, id);
  }
  const bars = (histogram: Histogram) =>
    isMeasured ? histogram.bars((edge) => edge.toLocaleString("en-US"), null) : [];
  return {
    brightness: bars(histograms.brightness),
    contrast: bars(histograms.contrast),
    cast: bars(histograms.cast),
    sharpness: bars(histograms.sharpness),
    hours: hours.size > 0 ? hours.of(hourNames) : [],
  };
}
