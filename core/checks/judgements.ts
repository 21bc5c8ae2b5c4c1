/** What checks that judge each image by itself said of a stock, kept so that only what changed is judged anew. */
import type { Snapshot } from "../snapshot/snapshot";
import { concluded, type Check, type Found, type LocalJudgement, type Proof } from "./check";

type Judged = { threshold: number; meant: Map<number, readonly number[]> };

/** Of one snapshot, over all images in stock. */
export class Judgements {
  private readonly judged = new Map<string, Judged>();
  private readonly stale = new Map<string, Set<number>>();
  private declared = "";

  constructor(private readonly snapshot: Snapshot) {
    snapshot.touched = new Set();
  }

  /** Takes note of what changed since it was last asked; to be called before a stocktake. */
  catchUp(): void {
    const { snapshot } = this;
    // What classes declare decides of images that did not change.
    const declared = JSON.stringify(snapshot.classes);
    if (declared !== this.declared) this.judged.clear();
    this.declared = declared;
    for (const slot of snapshot.touched ?? []) for (const code of this.judged.keys()) this.staleOf(code).add(slot);
    snapshot.touched = new Set();
  }

  private staleOf(code: string): Set<number> {
    const known = this.stale.get(code) ?? new Set();
    this.stale.set(code, known);
    return known;
  }

  /** What a local check finds; `isExempt`: images of which it says nothing. */
  find(
    { code, local }: Check & { local: LocalJudgement },
    threshold: number,
    isExempt: (slot: number) => boolean,
  ): Found[] {
    const { snapshot } = this;
    const known = this.judged.get(code);
    const anew = known?.threshold !== threshold;
    const meant = anew ? new Map<number, readonly number[]>() : known.meant;
    const judge = local.judge(snapshot, threshold);
    const judgeSlot = (slot: number) => {
      const objects = snapshot.present.at(slot) === 1 ? judge(slot) : null;
      if (objects) meant.set(slot, objects);
      else meant.delete(slot);
    };
    if (anew) for (let slot = 0; slot < snapshot.length; slot++) judgeSlot(slot);
    else for (const slot of this.staleOf(code)) judgeSlot(slot);
    this.stale.delete(code);
    this.judged.set(code, { threshold, meant });
    const proofs: Proof[] = [...meant]
      .filter(([slot]) => !isExempt(slot))
      .sort(([a], [b]) => a - b)
      .map(([slot, objects]) => ({ slot, objects }));
    return concluded(proofs, local.conclude, threshold);
  }
}
