"use client";
import { parseAsStringLiteral, useQueryState } from "nuqs";

export const shows = ["grid", "cutouts", "ledger"] as const;
export type Show = (typeof shows)[number];

/** In which way the stock is looked at, kept in the address. */
export function useShow(): { show: Show; setShow: (show: Show) => void } {
  const [show, setShow] = useQueryState(
    "show",
    parseAsStringLiteral(shows).withDefault("grid").withOptions({ history: "push", clearOnDefault: true }),
  );
  return { show, setShow: (next) => void setShow(next) };
}
