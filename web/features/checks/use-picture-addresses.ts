"use client";
import type { ShownProof } from "@larder/core/checks/shown-finding";
import { useVersions } from "@/features/live/queries";
import { meaning } from "./finding-links";
import type { CheckScope } from "./scope";
import type { CheckEntry } from "@larder/server/services/checks/check-entry";

/** Where the picture of a proof is had, and what it opens; null where there is nothing of it any more. */
export type PictureAddresses = { source: string | null; href: string | null };

/** Addresses of the pictures that prove a finding: those of the stock, or those that a version made of them. */
export function usePictureAddresses(
  collection: number,
  scope: CheckScope,
  finding: CheckEntry,
): (proof: ShownProof) => PictureAddresses {
  const { data: versions } = useVersions(collection);
  const version = scope.version ? versions?.find(({ number }) => number === scope.version)?.id : undefined;
  const meant = meaning(finding, scope, finding.proofs) ?? "";
  return ({ image, rendering }) => ({
    source:
      rendering !== null && version !== undefined
        ? `/api/versions/${version}/renderings/${rendering}`
        : rendering === null && image !== null
          ? `/api/images/${image}/thumbnail`
          : null,
    href: image === null ? null : `/c/${collection}/bench/${image}?${meant}`,
  });
}
