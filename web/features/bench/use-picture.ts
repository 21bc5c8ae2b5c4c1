"use client";
import { useEffect, useState } from "react";
import { PicturePixels } from "./picture-pixels";

/** The picture of an image once it is decoded; `isBroken` where it cannot be. */
export function usePicture(address: string) {
  const [picture, setPicture] = useState<{ element: HTMLImageElement; pixels: PicturePixels } | null>(null);
  const [isBroken, setBroken] = useState(false);
  useEffect(() => {
    setBroken(false);
    setPicture(null);
    const element = new Image();
    element.src = address;
    let gone = false;
    element
      .decode()
      .then(() => !gone && setPicture({ element, pixels: new PicturePixels(element) }))
      .catch(() => !gone && setBroken(true));
    return () => {
      gone = true;
    };
  }, [address]);
  return { picture, isBroken };
}
