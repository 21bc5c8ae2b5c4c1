"use client";
import { Button } from "@/ui/button";

/** What can be done with a proposed outline. */
export function ProposalBar({
  busy,
  isThere,
  onTake,
  onRefuse,
}: {
  busy: boolean;
  isThere: boolean;
  onTake: (as: "polygon" | "mask") => void;
  onRefuse: () => void;
}) {
  return (
    <div
      role="group"
      aria-label="Proposed outline"
      className="absolute top-3 left-1/2 flex -translate-x-1/2 items-center gap-2 whitespace-nowrap rounded-md border border-dim-rule bg-dim px-3 py-2 text-[12.5px]"
    >
      <span role="status">
        {busy ? "Looking for the outline …" : "Click what belongs to it, with Alt what does not."}
      </span>
      <Button look="dim" small disabled={busy || !isThere} onClick={() => onTake("polygon")}>
        Take as outline
      </Button>
      <Button look="dim" small disabled={busy || !isThere} onClick={() => onTake("mask")}>
        Take as mask
      </Button>
      <Button look="dim" small onClick={onRefuse}>
        Refuse
      </Button>
    </div>
  );
}
