/** A PDF: its pages as PNG pictures, and the words its own text layer gives for each. Runs in a process of its own. */
import { Failure } from "@larder/core/model/failure";
import type { LabeledObject } from "@larder/core/model/item";
import { wordBoxes, type TextRun } from "@larder/core/intake/page-words";
import { createRequire } from "node:module";
import path from "node:path";
import { getDocument, VerbosityLevel, type PDFDocumentProxy } from "pdfjs-dist/legacy/build/pdf.mjs";

/**
 * Where the reader's own fonts and character maps lie. Found at run time: a bundler would put a number in its place.
 */
function readerHome(): string {
  return path.dirname(createRequire(path.join(process.cwd(), "package.json")).resolve("pdfjs-dist/package.json"));
}

/** A PDF's own unit: 72 to an inch. */
const unitsPerInch = 72;

type Canvas = { canvas: { encode(type: "png"): Promise<Uint8Array> }; context: unknown };
type CanvasFactory = { create(width: number, height: number): Canvas; destroy(canvas: Canvas): void };

/** Whole pixels that hold a page; a thousandth more than a whole number is rounding, not a further pixel. */
function pixelsOf({ width, height }: { width: number; height: number }): { width: number; height: number } {
  return { width: Math.ceil(width - 0.001), height: Math.ceil(height - 0.001) };
}

export class PdfDocument {
  private constructor(
    private readonly document: PDFDocumentProxy,
    private readonly resolution: number,
    private readonly maxPixels: number,
  ) {}

  /** Opens a PDF; `resolution` in dots an inch. Throws a Failure where it is damaged or locked. */
  static async open(bytes: Uint8Array, resolution: number, maxPixels: number): Promise<PdfDocument> {
    const home = readerHome();
    try {
      const task = getDocument({
        data: Uint8Array.from(bytes),
        isEvalSupported: false,
        verbosity: VerbosityLevel.ERRORS,
        standardFontDataUrl: path.join(home, "standard_fonts") + path.sep,
        cMapUrl: path.join(home, "cmaps") + path.sep,
        disableFontFace: true,
        useSystemFonts: false,
      });
      return new PdfDocument(await task.promise, resolution, maxPixels);
    } catch (error) {
      const locked = (error as Error).name === "PasswordException";
      throw new Failure(
        "pdf-unreadable",
        locked ? "The PDF is locked with a password." : "It is not a PDF that can be read.",
      );
    }
  }

  get pages(): number {
    return this.document.numPages;
  }

  /** Page `number`, from 1, as PNG. */
  async picture(number: number): Promise<Uint8Array> {
    const page = await this.document.getPage(number);
    const viewport = page.getViewport({ scale: this.resolution / unitsPerInch });
    const { width, height } = pixelsOf(viewport);
    if (width * height > this.maxPixels)
      throw new Failure(
        "image-unreadable",
        `at ${this.resolution} dots an inch the page has ${width} × ${height} pixels, more than the ${Math.round(this.maxPixels / 1e6)} megapixels allowed`,
      );
    const factory = this.document.canvasFactory as CanvasFactory;
    const surface = factory.create(width, height);
    try {
      await page.render({
        canvas: surface.canvas as never,
        canvasContext: surface.context as never,
        viewport,
        background: "white",
      }).promise;
      return await surface.canvas.encode("png");
    } finally {
      factory.destroy(surface);
      page.cleanup();
    }
  }

  /** The words of page `number`'s text layer as objects of the class "word", in pixels of its picture. */
  async words(number: number): Promise<LabeledObject[]> {
    const page = await this.document.getPage(number);
    const viewport = page.getViewport({ scale: this.resolution / unitsPerInch });
    const { items, styles } = await page.getTextContent();
    const runs = items.flatMap((item): TextRun[] => {
      if (!("str" in item)) return [];
      const style = styles[item.fontName];
      return [
        {
          text: item.str,
          width: item.width,
          transform: item.transform,
          ascent: style?.ascent || 0.8,
          descent: style?.descent || -0.2,
        },
      ];
    });
    return wordBoxes(runs, viewport.transform, pixelsOf(viewport));
  }
}
