/** What an op does to a pixel's colours, in real numbers from 0 to 255. */
export type Tone =
  /** The same function on each channel. */
  | { kind: "channel"; value: (level: number) => number }
  /** Each channel times its factor, plus the offset. */
  | { kind: "affine"; factor: readonly [number, number, number]; offset: number }
  /** Channels mixed by nine numbers, row by row. */
  | { kind: "matrix"; of: readonly number[] }
  /** The hue of HSV turned by so many degrees. */
  | { kind: "hue"; degrees: number };
