/** Which keypoints of a class are each other's left and right, so that a mirror can swap them. */
import type { ClassInfo } from "./item";

export type KeypointPair = [number, number];

const isCapital = (sign: string | undefined) => sign !== undefined && sign !== sign.toLowerCase();

function otherSide(side: string): string {
  const other = { left: "right", right: "left", l: "r", r: "l" }[side.toLowerCase()] ?? side;
  if (side.length > 1 && side === side.toUpperCase()) return other.toUpperCase();
  return isCapital(side[0]) ? `${other[0]?.toUpperCase() ?? ""}${other.slice(1)}` : other;
}

/** Where a name can say its side: the word anywhere, or a letter of its own or before or after a capital. */
const sideMarks = [/left|right/i, /(?<![a-z0-9])[lr](?![a-z0-9])/i, /^[LlRr](?=[A-Z])/, /(?<=[a-z0-9])[LR]$/];

/** The names that the partner of `name` can have. */
function partnersOf(name: string): string[] {
  return sideMarks.flatMap((mark) => (mark.test(name) ? [name.replace(mark, otherSide)] : []));
}

/** Pairs that the names tell: `left eye` and `right eye`, `l_eye` and `r_eye`, `eyeL` and `eyeR`. */
export function pairsByName(names: readonly string[]): KeypointPair[] {
  const at = new Map(names.map((name, index) => [name, index]));
  const taken = new Set<number>();
  return names.flatMap((name, first): KeypointPair[] => {
    if (taken.has(first)) return [];
    const second = partnersOf(name)
      .map((partner) => at.get(partner))
      .find((index) => index !== undefined && index !== first && !taken.has(index));
    if (second === undefined) return [];
    taken.add(first).add(second);
    return [[first, second]];
  });
}

/** The pairs of an order that says for each keypoint which one takes its place in a mirror (`flip_idx`). */
export function pairsOfOrder(order: readonly number[], count: number): KeypointPair[] {
  return order.flatMap((partner, index): KeypointPair[] =>
    index < partner && partner < count && order[partner] === index ? [[index, partner]] : [],
  );
}

/** The pairs of a class: those given with it, else those its names tell. */
export function pairsOf({ keypoints = [], pairs }: Pick<ClassInfo, "keypoints" | "pairs">): KeypointPair[] {
  return pairs ?? pairsByName(keypoints);
}

/** For each keypoint the one that takes its place in a mirror: itself where it has no partner. */
export function mirrorOrder(info: Pick<ClassInfo, "keypoints" | "pairs">): number[] {
  const order = (info.keypoints ?? []).map((_, index) => index);
  for (const [a, b] of pairsOf(info))
    if (a < order.length && b < order.length) {
      order[a] = b;
      order[b] = a;
    }
  return order;
}
