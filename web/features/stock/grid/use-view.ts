"use client";
import { useMemo } from "react";
import { parseAsInteger, parseAsNativeArrayOf, parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";

export const shapeLooks = ["outlines", "filled", "off"] as const;
export type ShapeLook = (typeof shapeLooks)[number];

export const usualLight = 100;

const parsers = {
  shapes: parseAsStringLiteral(shapeLooks).withDefault("outlines"),
  /** Names of classes whose shapes are not drawn. */
  hide: parseAsNativeArrayOf(parseAsString).withDefault([]),
  /** Of the pictures as they are shown, in percent. */
  brightness: parseAsInteger.withDefault(usualLight),
  contrast: parseAsInteger.withDefault(usualLight),
};

/** `filter` is a style for pictures; undefined where they are shown as they are. */
export type TileView = { shapes: ShapeLook; hide: readonly string[]; filter: string | undefined };

/** How pictures are drawn: their shapes, their light; kept in the address. Nothing of it changes a picture. */
export function useView() {
  const [view, setView] = useQueryStates(parsers, { history: "replace", clearOnDefault: true });
  const { shapes, brightness, contrast } = view;
  const hidden = JSON.stringify(view.hide);
  const parameters = new URLSearchParams();
  if (view.shapes !== "outlines") parameters.set("shapes", view.shapes);
  for (const name of view.hide) parameters.append("hide", name);
  if (view.brightness !== usualLight) parameters.set("brightness", String(view.brightness));
  if (view.contrast !== usualLight) parameters.set("contrast", String(view.contrast));
  const lit = view.brightness !== usualLight || view.contrast !== usualLight;
  /** How one picture is drawn; the same as long as none of it changes. */
  const tile: TileView = useMemo(
    () => ({
      shapes,
      hide: JSON.parse(hidden) as string[],
      filter: lit ? `brightness(${brightness}%) contrast(${contrast}%)` : undefined,
    }),
    [shapes, hidden, lit, brightness, contrast],
  );
  return {
    ...view,
    set: (change: Partial<typeof view>) => void setView(change),
    tile,
    viewAddress: parameters.toString(),
  };
}
export type View = ReturnType<typeof useView>;
