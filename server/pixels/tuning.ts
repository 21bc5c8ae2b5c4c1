import sharp from "sharp";

/**
 * Sets the image library up for many pictures side by side, each worked on once: one thread a picture, as several for
 * each are in each other's way, and nothing kept of what is done, as it is not asked for again.
 */
export function tuneForManyPictures(): void {
  sharp.concurrency(1);
  sharp.cache(false);
}
