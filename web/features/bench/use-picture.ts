"use client";
import { useEffect, useState } from "react";
import { decodedPicture, type DecodedPicture } from "./pictures-ahead";

/** The picture of an image once it is decoded; `isBroken` where it cannot be. */
export function usePicture(image: number) {
  const [picture, setPicture] = useState<DecodedPicture | null>(null);
  const [isBroken, setBroken] = useState(false);
  useEffect(() => {
    setBroken(false);
    setPicture(null);
    let gone = false;
    decodedPicture(image)
      .then((decoded) => !gone && setPicture(decoded))
      .catch(() => !gone && setBroken(true));
    return () => {
      gone = true;
    };
  }, [image]);
  return { picture, isBroken };
}
