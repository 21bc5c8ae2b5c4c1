/** `larder-sources.csv`: for each picture of a package the file and the delivery it comes from. */
import { csvText } from "./csv/table";
import type { OutgoingItem } from "./format";

const header = ["source", "delivery", "output", "copy", "split"];
/** Rows are turned into text so many at a time. */
const rowsAtOnce = 1000;

/** Collects the pictures of a package as they are written. */
export class SourceList {
  private readonly texts: string[] = [];
  private rows: (string | number)[][] = [header];

  /** Notes that the picture at `output` in the package is `item`'s. */
  add(output: string, { path, origin, split }: OutgoingItem): void {
    const { path: source, delivery, copy } = origin ?? { path, delivery: "", copy: 0 };
    this.rows.push([source, delivery, output, copy, split ?? ""]);
    if (this.rows.length >= rowsAtOnce) this.flush();
  }

  private flush(): void {
    this.texts.push(csvText(this.rows));
    this.rows = [];
  }

  text(): string {
    this.flush();
    return this.texts.join("");
  }
}
