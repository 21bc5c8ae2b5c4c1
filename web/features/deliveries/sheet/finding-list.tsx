"use client";
import type { Finding } from "@larder/core/model/finding";
import type { IntakeChoices } from "@larder/core/intake/choices";
import { Button } from "@/ui/button";
import { FindingMark } from "@/ui/marks";
import type { Shown } from "./use-shown";
import type { Decide, DeliveryRow } from "./delivery-row";

/** Findings that single pictures show, and where those that do not are mended. */
const ofPictures = new Set([
  "image-unreadable",
  "box-outside-image",
  "shape-degenerate",
  "object-duplicate",
  "size-mismatch",
  "labels-turned",
  "labels-scaled",
  "entry-unsafe",
  "address-failed",
  "image-unlabeled",
  "image-empty",
  "exif-rotated",
  "near-copy",
  "copy-in-delivery",
]);

/** Findings that a choice about reading mends: the option, and what choosing it is called. */
const mends = new Map([
  ["labels-turned", { option: "turn", act: "Turn the labels" }],
  ["labels-scaled", { option: "scale", act: "Scale the labels" }],
]);

/** What a finding asks to be chosen: moving the labels, or leaving them as they are. */
function Mend({ code, choices, decide }: { code: string; choices: IntakeChoices; decide: Decide }) {
  const mend = mends.get(code);
  if (!mend) return null;
  const choose = (value: string) => decide({ options: { ...choices.options, [mend.option]: value } });
  return (
    <p className="mt-2 flex flex-wrap gap-2">
      <Button small onClick={() => choose("labels")}>
        {mend.act}
      </Button>
      <Button small onClick={() => choose("keep")}>
        Leave them as they are
      </Button>
    </p>
  );
}

/** Findings worst first, each with a way to what it is about; the whole can be downloaded. */
export function FindingList({
  delivery,
  findings,
  choices,
  decide,
  onShow,
}: {
  delivery: DeliveryRow;
  choices: IntakeChoices;
  decide: Decide;
  findings: readonly Finding[];
  onShow: (shown: Shown) => void;
}) {
  const open = delivery.status === "read";
  return (
    <section className="p-5">
      <h2 className="mb-1 flex items-baseline text-[15px]">
        Findings
        <a
          className="ml-auto font-text text-base font-normal text-ink-2 underline hover:text-ink"
          href={`/api/deliveries/${delivery.id}/report`}
          download
        >
          report
        </a>
      </h2>
      {findings.length === 0 ? <p className="text-ink-3">Nothing out of the ordinary.</p> : null}
      <ul>
        {findings.map((finding) => {
          const { sentence } = finding;
          const examples = finding.examples.join(" · ");
          return (
            <li key={finding.code} className="flex gap-3 border-b border-rule py-2.5 last:border-b-0">
              <FindingMark severity={finding.severity} />
              <div className="min-w-0 flex-1">
                <p className="font-semibold">{sentence}</p>
                {examples ? <p className="mt-0.5 text-[12.5px] break-words text-ink-2">{examples}</p> : null}
                {open ? <Mend code={finding.code} choices={choices} decide={decide} /> : null}
              </div>
              {open && ofPictures.has(finding.code) ? (
                <button
                  type="button"
                  className="self-start text-ink-2 underline hover:text-ink"
                  aria-label={`See ${finding.code}`}
                  onClick={() =>
                    onShow(
                      finding.code === "near-copy"
                        ? { filter: "near-copies", finding: null }
                        : finding.code === "copy-in-delivery"
                          ? { filter: "repeats", finding: null }
                          : { filter: "all", finding: finding.code },
                    )
                  }
                >
                  see
                </button>
              ) : open && finding.code === "class-similar" ? (
                <a href="#classes" className="self-start text-ink-2 underline hover:text-ink">
                  match
                </a>
              ) : null}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
