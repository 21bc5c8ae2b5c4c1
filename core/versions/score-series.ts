/** Scores laid out over versions, for a chart: which measure, of which class. */
import { mainMeasures } from "./measures";
import type { Scores } from "./scores";

export type ScoredVersion = { number: number; model: string; scores: Scores };

/** The name that stands for all classes together. */
export const allClasses = "";

/** The measures that any of them has, the telling ones first. */
export function measuresIn(scored: readonly ScoredVersion[]): string[] {
  const found = new Set(
    scored.flatMap(({ scores: { overall, byClass } }) => [overall, ...Object.values(byClass)].flatMap(Object.keys)),
  );
  const known = mainMeasures.filter((measure) => found.has(measure));
  return [...known, ...[...found].filter((measure) => !(mainMeasures as readonly string[]).includes(measure)).sort()];
}

/** The classes that any of them has this measure of. */
export function classesScored(scored: readonly ScoredVersion[], measure: string): string[] {
  return [
    ...new Set(
      scored.flatMap(({ scores: { byClass } }) =>
        Object.entries(byClass).flatMap(([name, figures]) => (Object.hasOwn(figures, measure) ? [name] : [])),
      ),
    ),
  ].sort();
}

/** A measure of all classes (`allClasses`) or of one; null where it was not measured. */
export function figureOf({ overall, byClass }: Scores, measure: string, of: string): number | null {
  const figures = of === allClasses ? overall : Object.hasOwn(byClass, of) ? byClass[of] : undefined;
  return figures && Object.hasOwn(figures, measure) ? (figures[measure] as number) : null;
}

export type Series = { model: string; points: { number: number; value: number }[] };

/** One line a model over the numbers of versions; of several scores of one model on one version the last counts. */
export function scoreSeries(scored: readonly ScoredVersion[], measure: string, of: string): Series[] {
  const models = new Map<string, Map<number, number>>();
  for (const { number, model, scores } of scored) {
    const value = figureOf(scores, measure, of);
    if (value === null) continue;
    const points = models.get(model) ?? new Map<number, number>();
    models.set(model, points.set(number, value));
  }
  return [...models].map(([model, points]) => ({
    model,
    points: [...points].sort(([a], [b]) => a - b).map(([number, value]) => ({ number, value })),
  }));
}
