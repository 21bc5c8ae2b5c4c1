"use client";
import type { Size } from "@larder/core/model/item";
import type { Box } from "@larder/core/model/shape";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { Proposer, type Proposal } from "./proposer";

/** The outline that is proposed for a box, mended by places, until it is taken or refused. */
export function useProposal(picture: HTMLImageElement | null, size: Size | undefined) {
  const [proposal, setProposal] = useState<Proposal | null>(null);
  const [busy, setBusy] = useState(false);
  const proposer = useRef<Proposer | null>(null);
  const round = useRef(0);
  useEffect(() => () => proposer.current?.close(), []);
  const ask = async (of: Pick<Proposal, "box" | "inside" | "outside">) => {
    if (!picture || !size) return;
    const asked = ++round.current;
    setBusy(true);
    try {
      const next = await (proposer.current ??= new Proposer()).propose(picture, size, of);
      // An answer to a question that was given up, or asked anew since, is nobody's any more.
      if (asked !== round.current) return;
      setProposal(next);
      if (!next?.outline) toast("No outline was found in the box. Say where it is, or draw it.");
    } catch (error) {
      if (asked === round.current) toast.error((error as Error).message);
    } finally {
      if (asked === round.current) setBusy(false);
    }
  };
  return {
    proposal,
    busy,
    begin: (box: Box) => void ask({ box, inside: [], outside: [] }),
    mend: (x: number, y: number, belongs: boolean) => {
      if (!proposal) return;
      const { box, inside, outside } = proposal;
      void ask({
        box,
        inside: belongs ? [...inside, x, y] : inside,
        outside: belongs ? outside : [...outside, x, y],
      });
    },
    end: () => {
      round.current++;
      setBusy(false);
      setProposal(null);
    },
  };
}
