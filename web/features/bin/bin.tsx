"use client";
import type { BinnedImage } from "@larder/server/services/bin";
import { useInfiniteQuery } from "@tanstack/react-query";
import Link from "next/link";
import { useEffect, useRef, useState } from "react";
import { useActs } from "@/features/acts/use-acts";
import { api } from "@/features/live/api";
import { TrayBar } from "@/features/stock/tray/tray-bar";
import { Button } from "@/ui/button";
import { PageHead } from "@/ui/page-head";
import { Empty, Loading, Trouble } from "@/ui/states";
import { count, day } from "@/ui/words";
import { BinLine } from "./bin-line";

type Page = { images: BinnedImage[]; next: string | null };

/** What was removed from stock and has not gone for good yet: looked at, and put back. */
export function Bin({ collection }: { collection: number }) {
  const { act } = useActs(collection);
  const { data, error, refetch, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery({
    queryKey: ["bin", collection, "images"],
    initialPageParam: null as string | null,
    getNextPageParam: (last: Page) => last.next,
    queryFn: ({ pageParam, signal }) =>
      api<Page>(
        `/api/collections/${collection}/bin/images?limit=100${pageParam === null ? "" : `&before=${encodeURIComponent(pageParam)}`}`,
        { signal },
      ),
  });
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  const end = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const element = end.current;
    if (!element || !hasNextPage) return;
    const observer = new IntersectionObserver(([entry]) => {
      if (entry?.isIntersecting && !isFetchingNextPage) void fetchNextPage();
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [hasNextPage, isFetchingNextPage, fetchNextPage]);
  if (error) return <Trouble error={error} again={() => void refetch()} />;
  if (!data) return <Loading what="the bin" />;
  const images = data.pages.flatMap((page) => page.images);
  if (images.length === 0)
    return (
      <Empty
        title="The bin is empty"
        action={
          <Button asChild>
            <Link href={`/c/${collection}/stock`}>Back to stock</Link>
          </Button>
        }
      >
        What is removed from stock lies here for a while before it goes for good.
      </Empty>
    );
  const flip = (id: number) =>
    setPicked((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const putBack = async () => {
    const only = [...picked];
    setPicked(new Set());
    await act({ where: "", only, except: [] }, { do: "restore" }, only.length);
  };
  return (
    <main className="mx-auto max-w-[1640px] pb-20">
      <PageHead title="Bin" aside="click what is to be put back" />
      <BinLine collection={collection} linked={false} />
      <ul aria-label="Images in the bin" className="grid grid-cols-[repeat(auto-fill,minmax(170px,1fr))] gap-2 px-5">
        {images.map((image) => (
          <li key={image.id}>
            <button
              type="button"
              aria-pressed={picked.has(image.id)}
              onClick={() => flip(image.id)}
              className={`block w-full text-left ${picked.has(image.id) ? "outline-[3px] outline-offset-2 outline-act outline-solid" : ""}`}
            >
              <img
                src={`/api/images/${image.id}/thumbnail`}
                alt=""
                loading="lazy"
                className="h-[128px] w-full rounded-sm bg-well object-contain opacity-80"
              />
              <span className="block truncate text-[12px] leading-[20px]" title={image.name}>
                {image.name.slice(image.name.lastIndexOf("/") + 1)}
              </span>
              <span className="block text-small text-ink-3">
                {count(image.objects, "object")} · since {day(image.removedAt)}
              </span>
            </button>
          </li>
        ))}
      </ul>
      <div ref={end} className="h-10" />
      {picked.size > 0 ? (
        <TrayBar label="What is picked" many={count(picked.size, "image")} onClear={() => setPicked(new Set())}>
          <Button look="dim" small onClick={() => void putBack()}>
            Put back into stock
          </Button>
        </TrayBar>
      ) : null}
    </main>
  );
}
