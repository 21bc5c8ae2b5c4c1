/** The data card and the check script of a package that is written from files. */
import type { Format, OutgoingItem } from "@larder/core/formats/format";
import type { Findings } from "@larder/core/model/finding";
import { worstFirst } from "@larder/core/model/finding";
import { cardFiles } from "@larder/core/versions/data-card";
import { countOutput, noNumbers } from "@larder/core/versions/version-numbers";

export type CardFacts = {
  title: string;
  /** Where the images come from: the source's own name. */
  source: string;
  digest: string | null;
  /** The plan's text; null where none was run. */
  plan: string | null;
  format: Format;
  report: Findings;
};

/** Counts items on their way into a package, and then makes the files that go with it. */
export class CardWriter {
  private readonly numbers = noNumbers();

  constructor(private readonly facts: CardFacts) {}

  async *counted<T extends OutgoingItem>(items: AsyncIterable<T>): AsyncGenerator<T> {
    for await (const item of items) {
      countOutput(this.numbers, item);
      yield item;
    }
  }

  readonly files = ({ pictures }: { pictures: number | null }): { path: string; text: string }[] => {
    const { title, source, digest, plan, format, report } = this.facts;
    const unknown = { licence: "", citation: "", source: "", notes: "" };
    const card = {
      ...this.numbers,
      ...{ title, note: "", digest, frozen: null, plan, pictures: {}, training: format.training },
      sources: [{ name: source, images: this.numbers.images, ...unknown }],
      faults: [],
      losses: report
        .list()
        .sort(worstFirst)
        .map(({ sentence }) => sentence),
    };
    return cardFiles(card, pictures);
  };
}
