/** Which images stay together: the connected sets of what they share. */

/** Disjoint sets with path halving. R. E. Tarjan & J. van Leeuwen, JACM 31 (1984). */
export class Groups {
  private readonly parents: Int32Array;

  constructor(length: number) {
    this.parents = Int32Array.from({ length }, (_, n) => n);
  }

  private rootOf(member: number): number {
    let at = member;
    while (this.parents[at] !== at) {
      const parent = this.parents[at] as number;
      this.parents[at] = this.parents[parent] as number;
      at = this.parents[at] as number;
    }
    return at;
  }

  join(a: number, b: number): void {
    const [first, second] = [this.rootOf(a), this.rootOf(b)];
    if (first !== second) this.parents[Math.max(first, second)] = Math.min(first, second);
  }

  /** Joins all that have the same text; those without one stay alone. */
  joinBy(textOf: (member: number) => string | null): void {
    const first = new Map<string, number>();
    for (let member = 0; member < this.parents.length; member++) {
      const text = textOf(member);
      if (text === null || text === "") continue;
      const other = first.get(text);
      if (other === undefined) first.set(text, member);
      else this.join(other, member);
    }
  }

  /** The group of each member, numbered from 0 in the order in which they are met. */
  numbers(): Int32Array {
    const known = new Map<number, number>();
    return this.parents.map((_, member) => {
      const root = this.rootOf(member);
      const number = known.get(root) ?? known.size;
      known.set(root, number);
      return number;
    });
  }
}
