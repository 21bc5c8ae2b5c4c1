/** Runs a plan on a light stock of which nothing but its rows is known. */
import { runFlow, type Flow, type FlowInput } from "../plans/flow";
import type { Plan } from "../plans/plan";
import { understandSelection } from "../selection/selection";
import { predicateOf } from "../selection/predicate";
import type { LightStock } from "../stock/light-stock";

export function flowOn(stock: LightStock, plan: Plan, more: Partial<FlowInput> = {}): Flow {
  const { where } = plan.select;
  const means = where === "" ? null : predicateOf(understandSelection(where));
  return runFlow(
    {
      stock,
      facts: {
        name: (n) => `${stock.keys[n]}.jpg`,
        size: () => ({ width: 640, height: 480 }),
        taken: () => Number.NaN,
        camera: () => "",
        attribute: () => null,
        nearCopies: () => [],
      },
      objectsOf: () => [],
      classNames: stock.names,
      attributes: { image: [], object: [] },
      means:
        means &&
        ((n) =>
          means({
            name: stock.keys[n] as string,
            split: stock.splits[n] ?? null,
            state: stock.states[n] as string,
            classes: [],
            objects: [],
            width: 640,
            height: 480,
            bytes: null,
          })),
      like: null,
      ...more,
    },
    plan,
  );
}
