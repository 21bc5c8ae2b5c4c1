"use client";
import { useEffect, useState } from "react";
import { classColour } from "@/ui/colours";

/** The classes' colours as a canvas takes them: style sheets' variables worked out. */
export function useResolvedColours(
  classes: readonly { id: number; colour: number }[] | undefined,
): ReadonlyMap<number, string> {
  const [colours, setColours] = useState<ReadonlyMap<number, string>>(new Map());
  useEffect(() => {
    const probe = document.createElement("span");
    document.body.append(probe);
    const resolved = new Map(
      classes?.map(({ id, colour }) => {
        probe.style.color = classColour(colour);
        return [id, getComputedStyle(probe).color] as const;
      }),
    );
    probe.remove();
    setColours(resolved);
  }, [classes]);
  return colours;
}
