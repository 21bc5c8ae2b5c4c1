"use client";
import { pairsOf } from "@larder/core/model/keypoint-pairs";
import type { ClassRow } from "@larder/server/services/classes";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog, DialogCancel } from "@/ui/dialog";
import { SelectField } from "@/ui/field";
import { count } from "@/ui/words";
import { SkeletonSample } from "./skeleton-sample";

type Keypoints = Pick<ClassRow, "id" | "name" | "pairs" | "skeleton"> & { keypoints: string[] };

const alone = "-1";

/** Which keypoints of a class take each other's place in a mirror: told by their names until it is said here. */
export function KeypointPairs({ row, collection }: { row: Keypoints; collection: number }) {
  const [open, setOpen] = useState(false);
  const pairs = pairsOf({ keypoints: row.keypoints, ...(row.pairs ? { pairs: row.pairs } : {}) });
  return (
    <>
      <button type="button" className="text-left underline hover:text-ink" onClick={() => setOpen(true)}>
        {count(row.keypoints.length, "point")}, {count(pairs.length, "pair")}
        <span className="sr-only"> of {row.name}</span>
      </button>
      {open ? <PairsDialog row={row} collection={collection} standing={pairs} onDone={() => setOpen(false)} /> : null}
    </>
  );
}

function PairsDialog({
  row,
  collection,
  standing,
  onDone,
}: {
  row: Keypoints;
  collection: number;
  standing: readonly [number, number][];
  onDone: () => void;
}) {
  const client = useQueryClient();
  const [pairs, setPairs] = useState(standing);
  const partnerOf = (point: number) => {
    const pair = pairs.find((candidate) => candidate.includes(point));
    return pair ? (pair[0] === point ? pair[1] : pair[0]) : Number(alone);
  };
  const join = (point: number, partner: number) => {
    const rest = pairs.filter((pair) => !pair.includes(point) && !pair.includes(partner));
    setPairs(partner < 0 ? rest : [...rest, [Math.min(point, partner), Math.max(point, partner)]]);
  };
  const save = (value: readonly [number, number][] | null) => {
    api(`/api/classes/${row.id}/keypoint-pairs`, { method: "PUT", body: { pairs: value } })
      .then(async () => {
        await client.invalidateQueries();
        onDone();
      })
      .catch((problem: unknown) => toast.error((problem as Error).message));
  };
  return (
    <Dialog
      open
      onOpenChange={(stays) => !stays && onDone()}
      title={`Left and right of ${row.name}`}
      description="In a mirrored picture the two of a pair swap, so that left stays left. A point without a partner stays itself."
    >
      <SkeletonSample collection={collection} row={row} pairs={pairs} />
      <div className="grid max-h-[30vh] grid-cols-2 gap-x-4 gap-y-2 overflow-auto">
        {row.keypoints.map((name, point) => (
          <SelectField
            key={name}
            label={`${name} swaps with`}
            value={String(partnerOf(point))}
            onChange={(value) => join(point, Number(value))}
            options={[
              { value: alone, label: "no other" },
              ...row.keypoints.flatMap((other, number) =>
                number === point ? [] : [{ value: String(number), label: other }],
              ),
            ]}
          />
        ))}
      </div>
      <div className="mt-5 flex justify-end gap-2">
        {row.pairs ? (
          <Button className="mr-auto" onClick={() => save(null)}>
            Leave it to the names
          </Button>
        ) : null}
        <DialogCancel />
        <Button look="go" onClick={() => save(pairs)}>
          Set pairs
        </Button>
      </div>
    </Dialog>
  );
}
