/** Where the features of each group lie: their means, kept up as features join and leave. */
import { featureLength } from "./features";
import type { FeatureStore } from "./feature-store";

/** Means of features: 128 numbers each. `numberOf`: which of them a group has, -1 where it has no features. */
export type Centres = { means: Float32Array; numberOf: Int32Array };

/** The features of groups 0, 1 … added up. Of one group at most 16 million: its sums are whole numbers of 32 bits. */
export class FeatureSums {
  private sums = new Uint32Array(0);
  private counts = new Float64Array(0);
  private centres: Centres | null = null;

  constructor(private readonly store: FeatureStore) {}

  /** Counts features in (1) or out (-1); `groups`: the group of each. Places of -1 are passed over. */
  add(places: Int32Array, groups: Int32Array, sign: 1 | -1 = 1): void {
    if (places.length === 0) return;
    let most = this.counts.length - 1;
    for (const group of groups) if (group > most) most = group;
    if (most >= this.counts.length) this.grow(most + 1);
    this.store.addUp(places, groups, this.sums, sign);
    for (let at = 0; at < places.length; at++) {
      const group = groups[at] as number;
      if ((places[at] as number) >= 0 && group >= 0) this.counts[group] = (this.counts[group] as number) + sign;
    }
    this.centres = null;
  }

  private grow(groups: number): void {
    const [sums, counts] = [this.sums, this.counts];
    this.sums = new Uint32Array(groups * featureLength);
    this.sums.set(sums);
    this.counts = new Float64Array(groups);
    this.counts.set(counts);
  }

  /** The mean of each group that has features. */
  means(): Centres {
    return (this.centres ??= this.workOutMeans());
  }

  private workOutMeans(): Centres {
    const numberOf = new Int32Array(this.counts.length).fill(-1);
    let count = 0;
    this.counts.forEach((features, group) => {
      if (features > 0) numberOf[group] = count++;
    });
    const means = new Float32Array(count * featureLength);
    numberOf.forEach((number, group) => {
      if (number < 0) return;
      const features = this.counts[group] as number;
      for (let n = 0; n < featureLength; n++)
        means[number * featureLength + n] = (this.sums[group * featureLength + n] as number) / features;
    });
    return { means, numberOf };
  }
}

/** The numbers of the centres of groups; -1 where a group has none. */
export function centreNumbers({ numberOf }: Centres, groups: Int32Array): Int32Array {
  return groups.map((group) => (group < 0 ? -1 : (numberOf[group] ?? -1)));
}
