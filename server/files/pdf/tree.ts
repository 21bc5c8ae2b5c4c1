/** A PDF as a file tree: one PNG picture a page. */
import { Failure } from "@larder/core/model/failure";
import type { FileEntry } from "@larder/core/model/file-tree";
import type { LabeledObject } from "@larder/core/model/item";
import { WholeFiles } from "../whole-files";
import { PdfReader, type PdfLimits } from "./reader";

export class PdfTree extends WholeFiles {
  private constructor(
    private readonly reader: PdfReader,
    private readonly pages: number,
  ) {
    super();
  }

  /** Opens a PDF; `resolution` in dots an inch. Throws a Failure where it is damaged, locked or takes too much. */
  static async open(file: string, resolution: number, maxPixels: number, limits?: PdfLimits): Promise<PdfTree> {
    const reader = new PdfReader(file, resolution, maxPixels, limits);
    try {
      return new PdfTree(reader, await reader.pages());
    } catch (error) {
      reader.close();
      throw error;
    }
  }

  private nameOf(page: number): string {
    return `page-${String(page).padStart(Math.max(3, String(this.pages).length), "0")}.png`;
  }

  private numberOf(name: string): number {
    const number = Number(/^page-(\d+)\.png$/.exec(name)?.[1] ?? 0);
    if (number < 1 || number > this.pages) throw new Failure("file-missing", `There is no ${name} in the PDF.`);
    return number;
  }

  entries(): Promise<FileEntry[]> {
    return Promise.resolve(
      Array.from({ length: this.pages }, (_, index) => ({ path: this.nameOf(index + 1), size: 0 })),
    );
  }

  async read(name: string): Promise<Uint8Array> {
    return this.reader.picture(this.numberOf(name));
  }

  /** The words of a page's text layer as objects of the class "word", in pixels of its picture. */
  async words(name: string): Promise<LabeledObject[]> {
    return this.reader.words(this.numberOf(name));
  }

  close(): void {
    this.reader.close();
  }
}
