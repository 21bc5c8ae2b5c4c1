/** What each format will lose of a plan's data set, before anything is written. */
import { fitItem } from "@larder/core/formats/fit";
import { formatNamed, packageFormats } from "@larder/core/formats/registry";
import { Findings, type Finding } from "@larder/core/model/finding";
import { blankItem } from "@larder/core/model/item";
import { reportUnpairedMirrors } from "@larder/core/plans/mirror-findings";
import { outputsOf } from "@larder/core/plans/outputs";
import type { Plan } from "@larder/core/plans/plan";
import { relabeledImage } from "@larder/core/versions/version-lines";
import { db } from "../../db/database";
import { allow } from "../access";
import type { Actor } from "../actor";
import { labeledImages } from "../building/labeled-images";
import { plannedRun } from "./planned-run";
import { resolvePlan } from "./resolve-plan";

/** `exact` is false where only some of the images were looked at: for formats that are not chosen, and in large stocks. */
export type ForeseenLosses = { format: string; exact: boolean; findings: Finding[] };

/** Of formats that are not chosen, so many images stand for all. */
const sampled = 40;
/** Of chosen ones, so many. */
const mostLooked = 20_000;

/**
 * Of the plan's own formats counted over every image that goes out, copies among them; of the others as a few images show
 * it.
 */
export async function foreseenLosses(actor: Actor, collection: number, body: Plan): Promise<ForeseenLosses[]> {
  await allow(actor, "see", { collection });
  const { plan, flow, classes, context } = await plannedRun(collection, await resolvePlan(collection, body));
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
  for await (const stocked of labeledImages(db(), collection)) {
    const split = flow.assigned.get(stocked.key);
    if (!split) continue;
    const image = relabeledImage(stocked, flow, relabelLosses);
    const { name, captions, fields } = image;
    for await (const output of outputsOf(image, split, context)) {
      const { size, state, objects: moved, classes: named } = output;
      const item = { ...blankItem(name), split, captions, fields, size, state, objects: moved, classes: named };
      for (const { format, options, report, chosen } of reports)
        if (chosen || looked < sampled) fitItem(item, format, options, report);
    }
    looked++;
    if (looked >= (plan.pack.formats.length === 0 ? sampled : mostLooked)) break;
  }
  const all = looked >= flow.assigned.size;
  return reports.map(({ format, report, chosen }) => ({
    format: format.name,
    exact: chosen && all,
    findings: [...relabelLosses.list(), ...report.list()],
  }));
}
