"use client";
import type { Check } from "@larder/core/checks/check";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { NumberInput } from "@/ui/number-input";
import { Popover } from "@/ui/popover";

/** What a check measures, and the number it goes by in this collection. */
export function ThresholdPopover({
  collection,
  check,
  value,
}: {
  collection: number;
  check: Check;
  value: number | null;
}) {
  const client = useQueryClient();
  const [draft, setDraft] = useState<number | null>(null);
  const { threshold, means } = check;
  const set = async (next: number | null) => {
    try {
      await api(`/api/collections/${collection}/checks/threshold`, {
        method: "PUT",
        body: { code: check.code, value: next },
      });
      await client.invalidateQueries({ queryKey: ["checks", collection] });
      setDraft(null);
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <Popover
      label={`How ${check.code} is found`}
      className="w-[340px] space-y-2.5 p-4"
      trigger={
        <Button small look="quiet">
          How it is found
        </Button>
      }
    >
      <p>{means}</p>
      {threshold && value !== null ? (
        <form
          className="flex items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void set(draft ?? value);
          }}
        >
          <NumberInput
            aria-label={`Threshold in ${threshold.unit}`}
            value={draft ?? value}
            min={threshold.least}
            max={threshold.most}
            step={threshold.step}
            onChange={setDraft}
            className="h-8 w-20"
          />
          <span className="text-ink-2">{threshold.unit}</span>
          <Button small type="submit" className="ml-auto" disabled={draft === null || draft === value}>
            Set
          </Button>
          {value === threshold.usual ? null : (
            <Button small onClick={() => void set(null)}>
              As usual
            </Button>
          )}
        </form>
      ) : null}
      <p className="text-small text-ink-3">{check.code}</p>
    </Popover>
  );
}
