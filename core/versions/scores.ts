/**
 * Scores of a trained model from a file: a JSON document or a CSV table as training programs leave them behind. Measures
 * go by many spellings; the usual ones are brought to one name each.
 */
import { parse } from "csv-parse/sync";
import { z } from "zod";
import { Failure } from "../model/failure";
import { mainMeasures } from "./measures";

const figures = z.record(z.string().min(1).max(80), z.number());

/** Measures of a model, of all classes together and of each; shares lie in 0 … 1. */
export const scoresSchema = z.object({
  overall: figures,
  byClass: z.record(z.string().max(1000), figures),
});
export type Scores = z.infer<typeof scoresSchema>;

/** A measure's usual name by its spelling in small letters and digits alone. */
const spellings: Record<string, string> = {
  map: "mAP",
  ap: "mAP",
  map5095: "mAP",
  map050095: "mAP",
  map05095: "mAP",
  map595: "mAP",
  ap5095: "mAP",
  bboxmap: "mAP",
  segmmap: "mAP",
  map50: "mAP 50",
  map05: "mAP 50",
  ap50: "mAP 50",
  bboxmap50: "mAP 50",
  segmmap50: "mAP 50",
  map75: "mAP 75",
  map075: "mAP 75",
  ap75: "mAP 75",
  bboxmap75: "mAP 75",
  precision: "precision",
  p: "precision",
  recall: "recall",
  r: "recall",
  ar: "recall",
  f1: "F1",
  f1score: "F1",
  fscore: "F1",
  accuracy: "accuracy",
  acc: "accuracy",
  accuracytop1: "accuracy",
  top1: "accuracy",
  top1accuracy: "accuracy",
  miou: "IoU",
  meaniou: "IoU",
  iou: "IoU",
  jaccard: "IoU",
  dice: "Dice",
};

/** Columns that say how training went, not how good the model is. */
const aside = /loss|time|seconds|^epoch$|^step$|^iter|^lr|learningrate|^support$|^images$|^instances$|^seed$/;

/** A measure's name; null for what is none. */
function measureOf(column: string): string | null {
  const whole = column.toLowerCase().trim();
  // A group of columns goes by the word before the slash.
  if (aside.test(whole.replace(/[^a-z0-9/]/g, "").replace(/\/.*$/, ""))) return null;
  const words = whole
    .replace(/\([^)]*\)/g, "")
    .replace(/^.*\//, "")
    .replace(/^(val|valid|validation|test|eval|metrics?)[_\s.-]+/, "");
  const plain = words.replace(/[^a-z0-9]/g, "");
  if (plain === "" || aside.test(plain)) return null;
  return spellings[plain] ?? column.trim().slice(0, 80);
}

const isKnown = (measure: string) => (mainMeasures as readonly string[]).includes(measure) || measure === "mAP 75";
const allTogether = new Set(["all", "total", "overall", "mean", "average", "macro avg", "macro average"]);
const otherAverages = new Set(["weighted avg", "micro avg", "samples avg", "weighted average"]);

type Row = Record<string, unknown>;
const isRow = (value: unknown): value is Row => typeof value === "object" && value !== null && !Array.isArray(value);

function numberOf(value: unknown): number | null {
  if (typeof value === "number") return Number.isFinite(value) ? value : null;
  if (typeof value !== "string" || value.trim() === "") return null;
  const percent = value.trim().endsWith("%");
  const parsed = Number(value.trim().replace(/%$/, ""));
  return Number.isFinite(parsed) ? (percent ? parsed / 100 : parsed) : null;
}

/** The measures of a row. Of two columns that mean the same the first counts. */
function measuresOf(row: Row): Record<string, number> {
  const measures: Record<string, number> = {};
  for (const [column, value] of Object.entries(row)) {
    const measure = measureOf(column);
    const amount = numberOf(value);
    if (measure !== null && amount !== null && !Object.hasOwn(measures, measure)) measures[measure] = amount;
  }
  return measures;
}

const textOf = (value: unknown): string =>
  typeof value === "string" || typeof value === "number" ? String(value) : "";

const columnNamed = (row: Row, names: readonly string[]) =>
  Object.keys(row).find((column) => names.includes(column.trim().toLowerCase()));

/** Rows of a table: a class each, a measure each, or an epoch each, of which the best counts. */
function fromRows(rows: readonly Row[]): Scores {
  const [first] = rows;
  if (!first) return { overall: {}, byClass: {} };
  const classColumn = columnNamed(first, ["class", "class_name", "category", "label", "name"]);
  const measureColumn = columnNamed(first, ["measure", "metric"]);
  const valueColumn = columnNamed(first, ["value", "score"]);
  const scores: Scores = { overall: {}, byClass: {} };
  if (measureColumn !== undefined && valueColumn !== undefined) {
    for (const row of rows) {
      const found = measuresOf({ [textOf(row[measureColumn])]: row[valueColumn] });
      const name = classColumn === undefined ? "" : textOf(row[classColumn]);
      addFor(scores, name, found);
    }
    return scores;
  }
  if (classColumn !== undefined) {
    for (const row of rows) {
      const { [classColumn]: name, ...rest } = row;
      addFor(scores, textOf(name), measuresOf(rest));
    }
    return scores;
  }
  const all = rows.map(measuresOf);
  const main = mainMeasures.find((measure) => all.some((found) => Object.hasOwn(found, measure)));
  const best = all.reduce((kept, row) => (main && (row[main] ?? -1) > (kept[main] ?? -1) ? row : kept));
  return { overall: main ? best : (all.at(-1) ?? {}), byClass: {} };
}

function addFor({ overall, byClass }: Scores, name: string, found: Record<string, number>): void {
  const trimmed = name.trim();
  if (otherAverages.has(trimmed.toLowerCase())) return;
  if (trimmed === "" || allTogether.has(trimmed.toLowerCase())) Object.assign(overall, found);
  else if (Object.keys(found).length > 0)
    Object.defineProperty(byClass, trimmed, {
      value: { ...(Object.hasOwn(byClass, trimmed) ? byClass[trimmed] : {}), ...found },
      enumerable: true,
      configurable: true,
      writable: true,
    });
}

const classKeys = new Set(["classes", "byclass", "perclass", "classscores", "perclassmetrics"]);

/** A document: measures, classes with theirs, or measures with a number for each class. */
function fromDocument(document: Row): Scores {
  const scores: Scores = { overall: {}, byClass: {} };
  for (const [key, value] of Object.entries(document)) {
    const plain = key.toLowerCase().replace(/[^a-z]/g, "");
    if (Array.isArray(value) && value.every(isRow) && value.length > 0) {
      const found = fromRows(value);
      Object.assign(scores.overall, { ...found.overall, ...scores.overall });
      for (const [name, measures] of Object.entries(found.byClass)) addFor(scores, name, measures);
    } else if (isRow(value)) {
      const measure = measureOf(key);
      if (classKeys.has(plain))
        for (const [name, of] of Object.entries(value))
          addFor(scores, name, isRow(of) ? measuresOf(of) : measuresOf({ mAP: of }));
      else if (measure !== null && isKnown(measure))
        for (const [name, of] of Object.entries(value)) addFor(scores, name, measuresOf({ [measure]: of }));
      else if (Object.keys(measuresOf(value)).some(isKnown)) {
        // Measures of something: of a class, or of all under a word such as "metrics".
        const all = ["metrics", "results", "scores", "bbox", "segm", "keypoints", "val", "test"].includes(plain);
        addFor(scores, all ? "" : key, measuresOf(value));
      }
    } else addFor(scores, "", measuresOf({ [key]: value }));
  }
  return scores;
}

/** Measures that are counted to a hundred become shares: where one of the usual ones lies above 1.5, all of them are. */
function asShares({ overall, byClass }: Scores): Scores {
  const all = [overall, ...Object.values(byClass)];
  const hundred = all.some((found) => Object.entries(found).some(([name, value]) => isKnown(name) && value > 1.5));
  if (!hundred) return { overall, byClass };
  const shared = (found: Record<string, number>) =>
    Object.fromEntries(Object.entries(found).map(([name, value]) => [name, isKnown(name) ? value / 100 : value]));
  return {
    overall: shared(overall),
    byClass: Object.fromEntries(Object.entries(byClass).map(([name, found]) => [name, shared(found)])),
  };
}

/** Reads a JSON document or a CSV table. Throws a Failure where no measure is found in it. */
export function readScores(text: string): Scores {
  const trimmed = text.replace(/^\uFEFF/, "").trim();
  let scores: Scores;
  if (/^[[{]/.test(trimmed)) {
    let document: unknown;
    try {
      document = JSON.parse(trimmed);
    } catch (error) {
      throw new Failure("scores-unreadable", `This is no JSON: ${(error as Error).message}.`);
    }
    scores = Array.isArray(document) ? fromRows(document.filter(isRow)) : fromDocument(isRow(document) ? document : {});
  } else {
    try {
      const delimiter = [",", ";", "\t"].find((sign) => trimmed.split("\n")[0]?.includes(sign)) ?? ",";
      const rows: unknown = parse(trimmed, { columns: true, delimiter, trim: true, relax_column_count: true });
      scores = fromRows(z.array(z.record(z.string(), z.unknown())).parse(rows));
    } catch (error) {
      throw new Failure("scores-unreadable", `This is no table: ${(error as Error).message}.`);
    }
  }
  const kept = asShares(scores);
  if (Object.keys(kept.overall).length === 0 && Object.keys(kept.byClass).length === 0)
    throw new Failure(
      "scores-unreadable",
      "No measure is found in this file. It takes a JSON document or a CSV table with columns such as mAP, precision, recall, accuracy or F1.",
    );
  return kept;
}
