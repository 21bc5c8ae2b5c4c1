"use client";
import { useSources } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { count } from "@/ui/words";
import type { Begin } from "./begin";

/** The shelf of samples: what each is, under which licence, and how to cite it. */
export function Samples({ begin, busy }: { begin: Begin; busy: boolean }) {
  const { data, error } = useSources();
  if (error) return <p className="text-harm">{error.message}</p>;
  if (data?.samples.length === 0)
    return (
      <p className="text-ink-2">
        The shelf is empty: samples are drawn when Larder starts with its demo (LARDER_DEMO_SHARE above 0).
      </p>
    );
  return (
    <ul className="max-h-[52vh] overflow-auto">
      {data?.samples.map((sample) => (
        <li key={sample.name} className="flex items-start gap-4 border-b border-rule py-3 last:border-b-0">
          <div className="min-w-0 flex-1">
            <p className="font-semibold">
              {sample.title}{" "}
              <span className="ml-1 font-normal text-ink-3">
                {count(sample.images, sample.format === "pdf" ? "page" : "image")} · {sample.format}
              </span>
            </p>
            <p className="text-ink-2">{sample.description}</p>
            <p className="mt-0.5 text-small text-ink-3">
              {sample.licence}. {sample.citation}
            </p>
          </div>
          <Button
            small
            disabled={busy}
            aria-label={`Take this one: ${sample.title}`}
            onClick={() => void begin({ kind: "sample", sample: sample.name })}
          >
            Take this one
          </Button>
        </li>
      ))}
    </ul>
  );
}
