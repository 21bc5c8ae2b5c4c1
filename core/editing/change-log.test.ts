import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { noLabels, type Labels, type StockObject } from "../labels/labels";
import type { Step } from "../labels/step";
import {
  doneAgain,
  openedLog,
  rebased,
  standingChanges,
  undone,
  withEarlier,
  withoutUnsent,
  withSent,
  withSteps,
  type ChangeLog,
} from "./change-log";

const uid = (n: number) => `01900000-0000-7000-8000-${String(n).padStart(12, "0")}`;
const object = (n: number, x = n): StockObject => ({
  uid: uid(n),
  class: 1,
  order: n,
  shape: { kind: "box", x, y: 0, width: 5, height: 5 },
});
const add = (n: number): Step => ({ do: "add-object", object: object(n) });
const move = (n: number, x: number): Step => ({ do: "set-shape", uid: uid(n), shape: object(n, x).shape });
const xs = ({ objects }: Labels) => objects.map(({ shape }) => (shape as { x: number }).x);

describe("a change log", () => {
  it("shows a change at once, keeps it to be sent, and brings the state in line", () => {
    const log = withSteps(openedLog(noLabels, 3), "a", [add(1)]);
    expect(log.labels.state).toBe("labeled");
    expect(log.unsent.map(({ key, steps }) => [key, steps.length])).toEqual([["a", 2]]);
    const sent = withSent(log, "a", 4);
    expect([sent.revision, sent.unsent, sent.done.length]).toEqual([4, [], 1]);
    expect(withSteps(sent, "b", [])).toBe(sent);
    expect(() => withSteps(sent, "b", [add(1)])).toThrow("on the image already");
  });
  it("undoes and does again, any way round, and a new change forgets what was undone", () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom("change", "undo", "redo"), { maxLength: 30 }), (acts) => {
        let log: ChangeLog = withSteps(openedLog(noLabels, 0), "first", [add(1)]);
        const [states, future]: [Labels[], Labels[]] = [[noLabels, log.labels], []];
        acts.forEach((act, n) => {
          if (act === "change") {
            log = withSteps(log, `c${n}`, states.length > 1 ? [move(1, n + 10)] : [add(1)]);
            states.push(log.labels);
            future.length = 0;
            return;
          }
          const next = act === "undo" ? undone(log, `u${n}`) : doneAgain(log, `r${n}`);
          const expected = act === "undo" ? states.length > 1 : future.length > 0;
          expect(next !== null).toBe(expected);
          if (!next) return;
          log = next;
          if (act === "undo") future.push(states.pop() as Labels);
          else states.push(future.pop() as Labels);
          expect(log.labels).toEqual(states.at(-1));
        });
        // Whatever was done, what is to be sent leads from what was opened to what is shown.
        const again = rebased({ ...log, done: [], undone: [] }, noLabels, 0);
        expect([again.lost, again.log.labels]).toEqual([[], log.labels]);
      }),
    );
  });
  it("says of an undoing what it takes back", () => {
    const log = undone(withSteps(openedLog(noLabels, 0), "a", [add(1)]), "b");
    expect(log?.unsent.map(({ key, undoes }) => [key, undoes])).toEqual([
      ["a", null],
      ["b", "a"],
    ]);
  });
  it("joins with what others did to other objects; what is about an object that is gone is told, with what hangs on it", () => {
    const opened: Labels = { ...noLabels, state: "labeled", objects: [object(1), object(2)] };
    let log = withSteps(openedLog(opened, 5), "a", [move(1, 20)]);
    log = withSteps(log, "b", [move(2, 30)]);
    log = withSteps(log, "c", [move(1, 40)]);
    const theirs: Labels = { ...opened, objects: [object(2), object(3)] };
    const { log: joined, lost } = rebased(log, theirs, 6);
    expect(lost.map(({ key }) => key)).toEqual(["a", "c"]);
    expect([xs(joined.labels), joined.revision, joined.unsent.map(({ key }) => key)]).toEqual([[30, 3], 6, ["b"]]);
    expect(joined.done.map(({ key }) => key)).toEqual(["b"]);
    expect(withoutUnsent(joined, ["b"]).unsent).toEqual([]);
  });
  it("goes back beyond the opening: what was undone before is left out, with what undid it", () => {
    const changes = [
      { act: 9, undoes: null },
      { act: 8, undoes: 7 },
      { act: 7, undoes: 5 },
      { act: 6, undoes: 4 },
      { act: 5, undoes: null },
      { act: 4, undoes: null },
    ];
    expect(standingChanges(changes).map(({ act }) => act)).toEqual([9, 5]);
    const opened: Labels = { ...noLabels, state: "labeled", objects: [object(1, 20)] };
    const log = withEarlier(openedLog(opened, 4), [{ act: 5, steps: [move(1, 20)], inverse: [move(1, 10)] }]);
    const back = undone(log, "z");
    expect(back && xs(back.labels)).toEqual([10]);
    expect(back?.unsent[0]?.undoes).toBe("act 5");
  });
});
