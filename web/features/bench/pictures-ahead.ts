/** Pictures that are fetched and decoded before they are asked for; the last few are kept. */
import { PicturePixels } from "./picture-pixels";

export type DecodedPicture = { element: HTMLImageElement; pixels: PicturePixels };

/** The one on the bench and its neighbours, and those of a step before. */
const kept = 4;
const pictures = new Map<string, Promise<DecodedPicture>>();

export const pictureAddress = (image: number): string => `/api/images/${image}/picture`;

async function decoded(address: string): Promise<DecodedPicture> {
  const element = new Image();
  element.src = address;
  await element.decode();
  return { element, pixels: new PicturePixels(await createImageBitmap(element)) };
}

/** The decoded picture of an image. Rejects where its bytes cannot be fetched or decoded. */
export function decodedPicture(image: number): Promise<DecodedPicture> {
  const address = pictureAddress(image);
  const picture = pictures.get(address) ?? decoded(address);
  // What was asked for last is kept longest.
  pictures.delete(address);
  pictures.set(address, picture);
  picture.catch(() => pictures.delete(address));
  for (const oldest of [...pictures.keys()].slice(0, Math.max(0, pictures.size - kept))) pictures.delete(oldest);
  return picture;
}
