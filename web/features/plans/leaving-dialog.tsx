"use client";
import type { Plan } from "@larder/core/plans/plan";
import type { Leaving } from "@larder/server/services/planning/plan-flow";
import { useQuery } from "@tanstack/react-query";
import Link from "next/link";
import { api } from "@/features/live/api";
import { Dialog } from "@/ui/dialog";
import { Loading, Trouble } from "@/ui/states";
import { count, number } from "@/ui/words";

/** Which images leave a plan at a step, by the rule that does it. */
export function LeavingDialog({
  collection,
  plan,
  step,
  onDone,
}: {
  collection: number;
  plan: Plan;
  step: string;
  onDone: () => void;
}) {
  const { data, error } = useQuery({
    queryKey: ["plan-leaving", collection, plan, step],
    queryFn: ({ signal }) =>
      api<Leaving[]>(`/api/collections/${collection}/plan-leaving`, { method: "POST", body: { plan, step }, signal }),
  });
  const all = data?.reduce((sum, entry) => sum + entry.count, 0) ?? 0;
  return (
    <Dialog
      open
      wide
      onOpenChange={(open) => !open && onDone()}
      title={`What leaves at ${step}`}
      description={data ? `${count(all, "image")} ${all === 1 ? "leaves" : "leave"} here, by these rules.` : ""}
    >
      {error ? <Trouble error={error} /> : null}
      {data === undefined && !error ? <Loading what="what leaves" /> : null}
      <div className="flex max-h-[60vh] flex-col gap-4 overflow-y-auto">
        {data?.length === 0 ? <p className="text-ink-3">No image leaves at this step.</p> : null}
        {data?.map(({ reason, count: images, images: shown }) => (
          <section key={reason} aria-label={reason}>
            <h3 className="mb-1.5">
              <b className="font-semibold">{number(images)}</b> {reason}
            </h3>
            <div className="grid grid-cols-8 gap-1.5">
              {shown.slice(0, 24).map(({ id, name }) => (
                <Link key={id} href={`/c/${collection}/stock/${id}`} title={name} className="block">
                  <img
                    src={`/api/images/${id}/thumbnail`}
                    alt={name}
                    className="aspect-square w-full rounded-sm bg-dim object-cover"
                  />
                </Link>
              ))}
            </div>
            {images > 24 ? <p className="mt-1 text-small text-ink-3">and {number(images - 24)} more</p> : null}
          </section>
        ))}
      </div>
    </Dialog>
  );
}
