/** Where the picture of a box on an image is; the box in pixels of the upright image. */
export function cutoutAddress({
  image,
  x,
  y,
  width,
  height,
}: {
  image: number;
  x: number;
  y: number;
  width: number;
  height: number;
}): string {
  return `/api/images/${image}/cutout?x=${x}&y=${y}&width=${width}&height=${height}`;
}
