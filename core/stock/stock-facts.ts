/** What plans ask of images beside their labels; `n` is the image's place in the light stock. */
export type StockFacts = {
  /** The file's path in stock. */
  name: (n: number) => string;
  size: (n: number) => { width: number; height: number };
  /** When it was shot, in milliseconds since 1970, UTC; NaN where that is not known. */
  taken: (n: number) => number;
  /** "" where it is not known. */
  camera: (n: number) => string;
  /** An image's attribute as a text; null where it is unset. */
  attribute: (n: number, name: string) => string | null;
  /** Places of images that are nearly the same. */
  nearCopies: (n: number) => readonly number[];
};
