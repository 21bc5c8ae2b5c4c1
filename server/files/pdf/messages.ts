/** What is said between Larder and the process that reads a PDF. */
import type { LabeledObject } from "@larder/core/model/item";

export type PdfRequest =
  | { do: "open"; file: string; resolution: number; maxPixels: number }
  | { do: "picture"; page: number }
  | { do: "words"; page: number };

export type PdfAnswer =
  /** Said once, unasked: before it, the memory of the process is still that of the one it was forked from. */
  | { ready: true }
  | { pages: number }
  | { picture: Uint8Array }
  | { words: LabeledObject[] }
  | { failure: { code: string; message: string } };
