"use client";
import type { ShownProof } from "@larder/core/checks/shown-finding";
import type { PastStocktake } from "@larder/server/services/checks/history";
import type { CheckEntry } from "@larder/server/services/checks/check-entry";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import Link from "next/link";
import { useState } from "react";
import { api } from "@/features/live/api";
import type { Wire } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { LineChart } from "@/ui/line-chart";
import { count, number } from "@/ui/words";
import { meaning } from "./finding-links";
import { isWholeStock, scopeParameters, type CheckScope } from "./scope";
import { usePictureAddresses } from "./use-picture-addresses";
import { ProofPicture } from "./proof-picture";

const pageSize = 60;
const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });

/** How often a finding was counted at each stocktake. */
function Past({ collection, finding }: { collection: number; finding: CheckEntry }) {
  const { data } = useQuery({
    queryKey: ["check-history", collection],
    queryFn: ({ signal }) => api<Wire<PastStocktake>[]>(`/api/collections/${collection}/checks/history`, { signal }),
  });
  if (!data || data.length < 2) return null;
  const values = data.map(({ counts }) => counts[finding.key] ?? 0);
  return (
    <div className="mb-3 h-32 max-w-[640px]">
      <LineChart
        places={data.map(({ at }) => day.format(new Date(at)))}
        lines={[{ name: finding.code, values }]}
        description={`Over ${data.length} stocktakes: ${values.map(number).join(", ")}`}
      />
    </div>
  );
}

/** All pictures that prove a finding, each to be opened, or to be said to be as it should. */
export function FindingPictures({
  collection,
  scope,
  finding,
  colourOf,
  onDismiss,
}: {
  collection: number;
  scope: CheckScope;
  finding: CheckEntry;
  colourOf: (classId: number) => string;
  onDismiss: (image: { id: number; name: string }) => void;
}) {
  const [limit, setLimit] = useState(pageSize);
  const { data } = useQuery({
    queryKey: ["check-proofs", collection, scope, finding.key, limit],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => {
      const asked = scopeParameters(scope);
      for (const [name, value] of Object.entries({ key: finding.key, start: "0", limit: String(limit) }))
        asked.set(name, value);
      return api<{ proofs: ShownProof[] }>(`/api/collections/${collection}/checks/proofs?${asked}`, { signal });
    },
  });
  const proofs = data?.proofs ?? finding.proofs;
  const pictureAddresses = usePictureAddresses(collection, scope, finding);
  const meant = meaning(finding, scope, proofs);
  return (
    <div className="mt-3">
      {isWholeStock(scope) ? <Past collection={collection} finding={finding} /> : null}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-2">
        {proofs.map((proof) => (
          <li key={proof.name}>
            <ProofPicture large proof={proof} colourOf={colourOf} {...pictureAddresses(proof)} />
            <span className="mt-0.5 flex items-baseline gap-2 text-[12px]">
              <span className="min-w-0 flex-1 truncate text-ink-2" title={proof.name}>
                {proof.name}
              </span>
              {scope.version || proof.image === null ? null : (
                <button
                  type="button"
                  className="text-ink-3 underline hover:text-ink"
                  aria-label={`fine: ${proof.name}`}
                  onClick={() => proof.image !== null && onDismiss({ id: proof.image, name: proof.name })}
                >
                  fine
                </button>
              )}
            </span>
          </li>
        ))}
      </ul>
      <div className="mt-2 flex items-center gap-2 text-ink-2">
        {proofs.length < finding.images ? (
          <>
            {number(proofs.length)} of {count(finding.images, "image")}
            {limit < 480 ? (
              <Button small onClick={() => setLimit(limit + pageSize)}>
                More
              </Button>
            ) : null}
          </>
        ) : null}
        {meant ? (
          <Link className="ml-auto underline hover:text-ink" href={`/c/${collection}/bench?${meant}`}>
            Mend them on the bench
          </Link>
        ) : null}
      </div>
    </div>
  );
}
