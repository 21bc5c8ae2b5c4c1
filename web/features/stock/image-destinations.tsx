"use client";
import type { ImageDestinations as Destinations } from "@larder/server/services/image-destinations";
import { useQuery } from "@tanstack/react-query";
import Link from "next/link";
import { api } from "@/features/live/api";
import { count } from "@/ui/words";

/** Where one image goes: the versions that hold it, and what each plan makes of it. */
export function ImageDestinations({ collection, image }: { collection: number; image: number }) {
  const { data } = useQuery({
    queryKey: ["image-destinations", collection, image],
    queryFn: ({ signal }) => api<Destinations>(`/api/images/${image}/destinations`, { signal }),
  });
  if (!data || (data.versions.length === 0 && data.plans.length === 0)) return null;
  return (
    <>
      <h2 className="mt-5 mb-1 text-[15px]">Where it goes</h2>
      <ul aria-label="Where it goes" className="text-[12.5px]">
        {data.versions.map(({ number, name, split, outputs }) => (
          <li key={number} className="border-b border-dim-rule py-1.5" title={outputs.join(", ")}>
            v{number} {name}
            <span className="block text-dim-ink-2">
              {split}, {count(outputs.length, "picture")}
            </span>
          </li>
        ))}
        {data.plans.map((plan) => (
          <li key={plan.id} className="border-b border-dim-rule py-1.5">
            <Link href={`/c/${collection}/plans/${plan.id}`} className="hover:underline">
              {plan.name}
            </Link>
            <span className="block text-dim-ink-2">
              {"problem" in plan
                ? plan.problem
                : plan.leaves
                  ? `leaves at ${plan.leaves.step}: ${plan.leaves.reason}`
                  : `would go to ${plan.split ?? "no split"}`}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
