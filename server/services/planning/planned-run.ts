/** A plan run on a collection as it is now: which image goes where, and all that its outputs are worked out with. */
import type { ClassInfo } from "@larder/core/model/item";
import { Failure } from "@larder/core/model/failure";
import { orderedClasses } from "@larder/core/plans/class-order";
import type { Flow } from "@larder/core/plans/flow";
import type { OutputContext } from "@larder/core/plans/outputs";
import type { Plan } from "@larder/core/plans/plan";
import { classInfosAfter, Relabeling } from "@larder/core/relabel/relabeling";
import { outputContext, type StockImage } from "@larder/core/versions/version-lines";
import { db, type Database } from "../../db/database";
import { ask } from "../../snapshot/ask";
import type { PlanQuestion, TravellingFlow } from "../../snapshot/questions";
import { classInfos, labeledImages } from "../building/labeled-images";

export type PlannedRun = {
  plan: Plan;
  flow: Flow;
  classes: ClassInfo[];
  context: OutputContext;
  /** Hashes of images in the data set that carry labels. */
  labeled: ReadonlySet<string>;
};

/** An image of a collection by its hash. */
export async function loadImage(on: Database, collection: number, key: string): Promise<StockImage> {
  for await (const image of labeledImages(on, collection, [key])) return image;
  throw new Failure("stock-changed", "An image that the plan takes is not in stock any more.", 409);
}

/** Images of the pool are asked for again and again: the last few are kept. */
const mostKept = 300;

export function keptImages(load: (key: string) => Promise<StockImage>): (key: string) => Promise<StockImage> {
  const kept = new Map<string, Promise<StockImage>>();
  return (key) => {
    const known = kept.get(key);
    if (known) return known;
    const loading = load(key);
    if (kept.size >= mostKept) kept.delete(kept.keys().next().value as string);
    kept.set(key, loading);
    loading.catch(() => kept.delete(key));
    return loading;
  };
}

/** The classes of a flow in the order of its plan, with what is known of them. */
export function classesOf(flow: Flow, plan: Plan, before: readonly ClassInfo[]): ClassInfo[] {
  const bands = flow.steps.find(({ step }) => step === "split")?.bands ?? [];
  return classInfosAfter(orderedClasses(flow.classes, plan.pack.classes, bands), before, flow.relabeling);
}

export async function plannedRun(collection: number, question: PlanQuestion): Promise<PlannedRun> {
  const { plan } = question;
  const [{ labeled, ...flow }, classes] = await Promise.all([
    ask("planned", collection, question),
    classInfos(db(), collection),
  ]);
  return { ...runOf({ plan, flow, classes }, collection), labeled };
}

/** A run on its way between threads; `classes` are the collection's, before relabeling. */
export type TravellingRun = { plan: Plan; flow: TravellingFlow; classes: ClassInfo[] };

/** The run put together again, its relabeling made anew. */
export function runOf(
  { plan, flow: travelled, classes: before }: TravellingRun,
  collection: number,
): Omit<PlannedRun, "labeled"> {
  const { made, attributes, ...rest } = travelled;
  const relabeling = new Relabeling(plan.relabel, { image: attributes, object: attributes }, rest.dropped);
  for (const [name, names] of made) relabeling.made.set(name, names);
  const flow: Flow = { ...rest, relabeling, left: new Map() };
  const classes = classesOf(flow, plan, before);
  const load = keptImages((key) => loadImage(db(), collection, key));
  return { plan, flow, classes, context: outputContext(plan, flow, classes, load) };
}
