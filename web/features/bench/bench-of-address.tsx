"use client";
import { usePathname } from "next/navigation";
import { Bench } from "./bench";

/** The bench with the image that the address names; nothing where it names none. */
export function BenchOfAddress() {
  const [, collection, image] = /^\/c\/(\d+)\/bench\/(\d+)$/.exec(usePathname()) ?? [];
  return image === undefined ? null : <Bench collection={Number(collection)} id={Number(image)} />;
}
