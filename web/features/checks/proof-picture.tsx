"use client";
import type { ShownProof } from "@larder/core/checks/shown-finding";
import Link from "next/link";

/** A picture that proves a finding, with the objects it is about framed; it opens on the bench. */
export function ProofPicture({
  proof,
  href,
  colourOf,
  large = false,
}: {
  proof: ShownProof;
  href: string;
  colourOf: (classId: number) => string;
  large?: boolean;
}) {
  const { image, name, width, height, objects } = proof;
  return (
    <Link
      href={href}
      aria-label={objects.length > 0 ? `${name}, ${objects.length} marked` : name}
      className={`relative block shrink-0 overflow-hidden rounded-sm bg-well ${large ? "w-full" : "h-[72px]"}`}
      style={{ aspectRatio: `${width} / ${height}`, maxWidth: large ? "none" : "128px" }}
    >
      <img src={`/api/images/${image}/thumbnail`} alt="" loading="lazy" className="absolute inset-0 size-full" />
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
    </Link>
  );
}
