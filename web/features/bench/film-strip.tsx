"use client";
import type { StockImage } from "@larder/server/services/stock";
import { useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { useEffect } from "react";
import { decodedPicture } from "./pictures-ahead";
import { benchQuery } from "./use-session";

/**
 * The neighbours in the row, the image on the bench among them; labels and pictures of those beside it are fetched and
 * decoded ahead.
 */
export function FilmStrip({
  collection,
  images,
  image,
  ahead,
  addressOf,
  onOpen,
}: {
  collection: number;
  images: readonly StockImage[];
  image: number;
  ahead: readonly (number | null)[];
  addressOf: (image: number) => string;
  onOpen: (image: number) => void;
}) {
  const client = useQueryClient();
  useEffect(() => {
    for (const id of ahead) {
      if (id === null) continue;
      // One that cannot be decoded says so once it is opened.
      void decodedPicture(id).catch(() => undefined);
      void client.prefetchQuery(benchQuery(collection, id));
    }
  }, [ahead.join(" ")]);
  return (
    <nav aria-label="Neighbours" className="flex h-14 min-w-0 flex-1 justify-center gap-1 overflow-hidden">
      {images.map(({ id, name, width, height, state }) => (
        <Link
          key={id}
          href={addressOf(id)}
          aria-label={`${name}, ${state}`}
          prefetch={false}
          onNavigate={(event) => {
            event.preventDefault();
            onOpen(id);
          }}
          {...(id === image ? { "aria-current": "page" as const } : {})}
          className="relative h-full shrink-0 overflow-hidden rounded-sm border-2 border-transparent opacity-60 hover:opacity-100 aria-[current=page]:border-dim-ink aria-[current=page]:opacity-100"
          style={{ aspectRatio: `${Math.min(2, Math.max(0.6, width / height))}` }}
        >
          <img src={`/api/images/${id}/thumbnail`} alt="" className="size-full object-cover" />
          {state === "unlabeled" ? (
            <span
              className="absolute right-0.5 bottom-0.5 size-2 rounded-full border border-dim bg-[#f2c14e]"
              title="unlabeled"
            />
          ) : null}
        </Link>
      ))}
    </nav>
  );
}
