"use client";
import type { StockImage } from "@larder/server/services/stock";
import { useQuery } from "@tanstack/react-query";
import Link from "next/link";
import { api } from "@/features/live/api";
import { useClasses } from "@/features/live/queries";
import { Shapes } from "@/features/shapes/shapes";
import { classColour } from "@/ui/colours";
import { count } from "@/ui/words";
import { stockLink } from "@/features/stock/link";
import type { DeliveryRow } from "./delivery-row";

/** The first of the images that a delivery brought, as they stand in stock now. */
export function Brought({ collection, delivery }: { collection: number; delivery: DeliveryRow }) {
  const chosen = { delivery: [delivery.name] };
  const { data: classes } = useClasses(collection);
  const { data } = useQuery({
    queryKey: ["stock", collection, "brought", delivery.id],
    queryFn: ({ signal }) =>
      api<{ images: StockImage[] }>(
        `/api${stockLink(collection, chosen).replace("/c/", "/collections/")}&start=0&limit=16`,
        {
          signal,
        },
      ),
  });
  const colours = new Map(classes?.map((row) => [row.id, classColour(row.colour)]));
  return (
    <section className="min-w-0 p-5">
      <div className="mb-3 flex items-baseline gap-3">
        <h2 className="text-[15px]">Images</h2>
        <Link className="ml-auto text-ink-2 underline hover:text-ink" href={stockLink(collection, chosen)}>
          all {count(delivery.taken?.images ?? 0, "image")} in stock
        </Link>
      </div>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-1.5">
        {data?.images.map((image) => (
          <Link
            key={image.id}
            href={`/c/${collection}/stock/${image.id}?delivery=${delivery.id}`}
            aria-label={image.name}
            className="relative block aspect-[4/3] overflow-hidden rounded-sm bg-well"
          >
            <img src={`/api/images/${image.id}/thumbnail`} alt="" className="absolute inset-0 size-full object-cover" />
            <Shapes
              cover
              width={image.width}
              height={image.height}
              shapes={image.objects.map((object, key) => ({
                key,
                shape: object.shape,
                colour: colours.get(object.classId) ?? classColour(0),
              }))}
            />
            {image.state === "labeled" ? null : (
              <span className="absolute bottom-1.5 left-1.5 rounded-sm bg-dim/85 px-1.5 text-[11.5px] text-dim-ink">
                {image.state}
              </span>
            )}
          </Link>
        ))}
      </div>
    </section>
  );
}
