/** What a plan's steps came to on one state of a stock, for other plans that begin in the same way. */

/** As many results of each step are kept. */
const most = 6;

export class StepResults {
  private readonly kept = new Map<string, Map<string, unknown>>();

  /** The result of a step for what the plan says up to it, worked out where it is not known. */
  of<T>(step: string, said: readonly unknown[], work: () => T): T {
    const results = this.kept.get(step) ?? new Map<string, unknown>();
    this.kept.set(step, results);
    const key = JSON.stringify(said);
    if (results.has(key)) return results.get(key) as T;
    const result = work();
    if (results.size >= most) results.delete(results.keys().next().value as string);
    results.set(key, result);
    return result;
  }
}
