"use client";
import type { ShownProof } from "@larder/core/checks/shown-finding";
import Link from "next/link";
import type { PictureAddresses } from "./use-picture-addresses";

/** A picture that proves a finding, with the objects it is about framed; it opens on the bench. */
export function ProofPicture({
  proof,
  source,
  href,
  colourOf,
  large = false,
}: PictureAddresses & {
  proof: ShownProof;
  colourOf: (classId: number) => string;
  large?: boolean;
}) {
  const { name, width, height, objects } = proof;
  const frame = {
    "aria-label": objects.length > 0 ? `${name}, ${objects.length} marked` : name,
    className: `relative block shrink-0 overflow-hidden rounded-sm bg-well ${large ? "w-full" : "h-[72px]"}`,
    style: { aspectRatio: `${width} / ${height}`, maxWidth: large ? "none" : "128px" },
  };
  const inside = (
    <>
      {source ? <img src={source} alt="" loading="lazy" className="absolute inset-0 size-full" /> : null}
      <svg
        viewBox={`0 0 ${width} ${height}`}
        preserveAspectRatio="none"
        className="absolute inset-0 size-full"
        aria-hidden="true"
      >
        {objects.map((object) => (
          <rect
            key={object.id}
            x={object.x}
            y={object.y}
            width={object.width}
            height={object.height}
            fill="none"
            stroke={colourOf(object.classId)}
            strokeWidth={2.5}
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </svg>
    </>
  );
  return href ? (
    <Link href={href} {...frame}>
      {inside}
    </Link>
  ) : (
    <span role="img" {...frame}>
      {inside}
    </span>
  );
}
