import sharp from "sharp";

/** Lets each picture be worked on by one thread: where several pictures are worked on side by side, several threads for each are in each other's way. */
export function oneThreadForEachPicture(): void {
  sharp.concurrency(1);
}
