"use client";
import type { Check } from "@larder/core/checks/check";
import { allChecks } from "@larder/core/checks/stocktake";
import type { CheckEntry } from "@larder/server/services/checks/check-entry";
import Link from "next/link";
import { useState } from "react";
import { Button } from "@/ui/button";
import { FindingMark } from "@/ui/marks";
import { DismissDialog } from "./dismiss-dialog";
import { meaning } from "./finding-links";
import { FindingPictures } from "./finding-pictures";
import { MendDialog } from "./mend-dialog";
import { ProofPicture } from "./proof-picture";
import type { CheckScope } from "./scope";
import { ThresholdPopover } from "./threshold-popover";
import { usePictureAddresses } from "./use-picture-addresses";

const checks = new Map<string, Check>(allChecks.map((check) => [check.code, check]));

/** One finding: its sentence, the pictures that prove it, and what mends it. */
export function FindingRow({
  collection,
  scope,
  finding,
  isOpen,
  onToggle,
  colourOf,
}: {
  collection: number;
  /** What is checked. */
  scope: CheckScope;
  finding: CheckEntry;
  isOpen: boolean;
  onToggle: () => void;
  colourOf: (classId: number) => string;
}) {
  const [mend, setMend] = useState<number | null>(null);
  const [dismissing, setDismissing] = useState<{ image: { id: number; name: string } | null } | null>(null);
  const check = checks.get(finding.code);
  const examples = finding.examples.join(" · ");
  const meant = meaning(finding, scope, finding.proofs);
  const pictureAddresses = usePictureAddresses(collection, scope, finding);
  return (
    <li className="flex gap-3 border-b border-rule py-3">
      <FindingMark severity={finding.severity} />
      <div className="min-w-0 flex-1">
        <div className="flex items-start gap-3">
          <p className="min-w-0 flex-1 font-semibold">{finding.sentence}</p>
          {meant ? (
            <Link className="shrink-0 text-ink-2 underline hover:text-ink" href={`/c/${collection}/stock?${meant}`}>
              see in stock
            </Link>
          ) : null}
        </div>
        {examples ? <p className="text-[12.5px] break-words text-ink-2">{examples}</p> : null}
        {finding.deliveries.length > 0 ? (
          <p className="text-[12.5px] text-ink-3">
            found in{" "}
            {finding.deliveries.map(({ id, name }, n) => (
              <span key={id}>
                {n > 0 ? ", " : ""}
                <Link className="underline" href={`/c/${collection}/deliveries/${id}`}>
                  {name}
                </Link>
              </span>
            ))}
          </p>
        ) : null}
        {finding.proofs.length > 0 && !isOpen ? (
          <div className="mt-2 flex gap-1.5 overflow-hidden">
            {finding.proofs.map((proof) => (
              <ProofPicture key={proof.name} proof={proof} colourOf={colourOf} {...pictureAddresses(proof)} />
            ))}
          </div>
        ) : null}
        {isOpen ? (
          <FindingPictures
            collection={collection}
            scope={scope}
            finding={finding}
            colourOf={colourOf}
            onDismiss={(image) => setDismissing({ image })}
          />
        ) : null}
        <div className="mt-2 flex flex-wrap items-center gap-2">
          {finding.mends.map(({ label }, n) => (
            <Button key={label} small onClick={() => setMend(n)}>
              {label}
            </Button>
          ))}
          {finding.images > 0 ? (
            <Button small look="quiet" aria-expanded={isOpen} onClick={onToggle}>
              {isOpen ? "Fewer pictures" : "All pictures"}
            </Button>
          ) : null}
          {check ? <ThresholdPopover collection={collection} check={check} value={finding.threshold} /> : null}
          {scope.version ? null : (
            <Button small look="quiet" onClick={() => setDismissing({ image: null })}>
              Dismiss
            </Button>
          )}
        </div>
      </div>
      {mend === null ? null : (
        <MendDialog collection={collection} scope={scope} finding={finding} mend={mend} onClose={() => setMend(null)} />
      )}
      {dismissing ? (
        <DismissDialog
          collection={collection}
          scope={scope}
          finding={finding}
          image={dismissing.image}
          onClose={() => setDismissing(null)}
        />
      ) : null}
    </li>
  );
}
