import { expect, it } from "vitest";
import { onceARevision } from "./once-a-revision";
import { Snapshot } from "./snapshot";

it("what is worked out of a snapshot is worked out once a revision, of each snapshot by itself", () => {
  const asked: [Snapshot, number][] = [];
  const workedOut = onceARevision((snapshot) => {
    asked.push([snapshot, snapshot.revision]);
    return { revision: snapshot.revision };
  });
  const [one, other] = [new Snapshot(), new Snapshot()];
  const first = workedOut(one);
  expect([workedOut(one), workedOut(other)]).toEqual([first, { revision: other.revision }]);
  expect(workedOut(one)).toBe(first);
  one.revision++;
  expect(workedOut(one)).toEqual({ revision: first.revision + 1 });
  expect(workedOut(other)).not.toBe(workedOut(one));
  expect(asked).toEqual([
    [one, first.revision],
    [other, other.revision],
    [one, first.revision + 1],
  ]);
});
