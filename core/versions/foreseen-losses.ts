/** What each format will lose of a plan's data set, before anything is written. */
import { fitItem } from "../formats/fit";
import { formatNamed, packageFormats } from "../formats/registry";
import { Findings, type Finding } from "../model/finding";
import { blankItem, type ClassInfo, type Split } from "../model/item";
import type { Flow } from "../plans/flow";
import { reportUnpairedMirrors } from "../plans/mirror-findings";
import { outputsOf, type OutputContext } from "../plans/outputs";
import type { Plan } from "../plans/plan";
import { relabeledImage, type StockImage } from "./version-lines";

/** `exact` is false where only some of the images were looked at: for formats that are not chosen, and in large stocks. */
export type ForeseenLosses = { format: string; exact: boolean; findings: Finding[] };

/** Of formats that are not chosen, so many images stand for all. */
const sampled = 40;
/** Of chosen ones, so many. */
const mostLooked = 20_000;

/** How many of a plan's images have to be looked at for its losses. */
export const imagesForLosses = (plan: Plan): number => (plan.pack.formats.length === 0 ? sampled : mostLooked);

/**
 * Losses of a run of a plan. `images`: those of its data set, as they stand in stock, or the first `imagesForLosses` of
 * them. Of the plan's own formats counted over every image that goes out, copies among them; of the others as a few images
 * show it.
 */
export async function foreseenLosses(
  images: AsyncIterable<StockImage>,
  { plan, flow, classes, context }: { plan: Plan; flow: Flow; classes: ClassInfo[]; context: OutputContext },
): Promise<ForeseenLosses[]> {
  const objects = flow.steps.find(({ step }) => step === "split")?.bands.reduce((sum, band) => sum + band.objects, 0);
  const reports = packageFormats.map((name) => {
    const format = formatNamed(name);
    const report = new Findings();
    reportUnpairedMirrors(plan, classes, report);
    const chosen = plan.pack.formats.find((entry) => entry.format === name);
    const given = chosen?.options ?? {};
    const options = { ...format.surveyed?.({ objects: objects ?? 0, imageClasses: 0 }, given), ...given };
    return { format, options, report, chosen: chosen !== undefined };
  });
  const relabelLosses = new Findings();
  let looked = 0;
  for await (const stocked of images) {
    const image = relabeledImage(stocked, flow, relabelLosses);
    const { name, captions, fields } = image;
    const split = flow.assigned.get(stocked.key) as Split;
    for await (const output of outputsOf(image, split, context)) {
      const { size, state, objects: moved, classes: named } = output;
      const item = { ...blankItem(name), split, captions, fields, size, state, objects: moved, classes: named };
      for (const { format, options, report, chosen } of reports)
        if (chosen || looked < sampled) fitItem(item, format, options, report);
    }
    looked++;
  }
  const all = looked >= flow.assigned.size;
  return reports.map(({ format, report, chosen }) => ({
    format: format.name,
    exact: chosen && all,
    findings: [...relabelLosses.list(), ...report.list()],
  }));
}
