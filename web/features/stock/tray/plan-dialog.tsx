"use client";
import type { Selection } from "@larder/core/selection/chosen";
import { selecting } from "@larder/core/selection/dimensions";
import type { ActOutcome } from "@larder/server/services/acts";
import type { PlanRow } from "@larder/server/services/plans";
import { useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { usePlans, type Wire } from "@/features/live/queries";
import { untilJobEnds } from "@/features/live/until-job-ends";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { SelectField, TextField } from "@/ui/field";

const aNewOne = "new";

/**
 * Hands what is selected to a plan, whose first step it becomes. A selection by conditions goes as it is; images that were
 * picked one by one get a tag, by which the plan finds them.
 */
export function PlanDialog({
  collection,
  selection,
  many,
  onClose,
}: {
  collection: number;
  selection: Selection;
  many: string;
  onClose: () => void;
}) {
  const router = useRouter();
  const client = useQueryClient();
  const { data: plans } = usePlans(collection);
  const [target, setTarget] = useState(aNewOne);
  const [tag, setTag] = useState(() => `picked-${new Date().toISOString().slice(0, 10)}`);
  const picked = selection.only !== null || selection.except.length > 0;
  const hand = async () => {
    try {
      let { where } = selection;
      if (picked) {
        const body = { ...selection, act: { do: "tag", tag: tag.trim() } };
        const { job } = await api<ActOutcome>(`/api/collections/${collection}/acts`, { method: "POST", body });
        if (job) await untilJobEnds(job);
        where = selecting({ tag: [tag.trim()] });
      }
      const id =
        target === aNewOne
          ? (await api<{ id: number }>(`/api/collections/${collection}/plans`, { method: "POST", body: {} })).id
          : Number(target);
      const { body } = await api<Wire<PlanRow>>(`/api/plans/${id}`);
      await api(`/api/plans/${id}`, {
        method: "PATCH",
        body: { body: { ...body, select: { ...body.select, where } } },
      });
      await client.invalidateQueries();
      router.push(`/c/${collection}/plans/${id}?step=select`);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={`Hand ${many} to a plan`}
      description="They become what the plan selects, in place of what it selects now."
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void hand();
        }}
      >
        <SelectField
          label="Plan"
          value={target}
          options={[
            { value: aNewOne, label: "a new plan" },
            ...(plans ?? []).map(({ id, name }) => ({ value: String(id), label: name })),
          ]}
          onChange={setTarget}
        />
        {picked ? (
          <TextField
            label="Tag for the images that were picked"
            maxLength={100}
            value={tag}
            onChange={(event) => setTag(event.target.value)}
            hint="The plan finds them by it."
          />
        ) : null}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="go" disabled={picked && tag.trim() === ""}>
            Hand over
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
