"use client";
import { useQuery, keepPreviousData } from "@tanstack/react-query";
import { Command } from "cmdk";
import { Dialog } from "radix-ui";
import { useParams, useRouter } from "next/navigation";
import { useEffect, useState } from "react";
import type { Destination } from "@larder/server/services/go-to";
import { api } from "@/features/live/api";

const stationWords: Record<string, string> = {
  deliveries: "Deliveries",
  stock: "Stock",
  classes: "Classes",
  checks: "Checks",
  plans: "Plans",
  versions: "Versions",
};
const kindWords: Record<Destination["kind"], string> = {
  collection: "collection",
  delivery: "delivery",
  plan: "plan",
  version: "version",
  class: "class",
  image: "image",
};

/** Ctrl K: type a few letters of anything and go there. */
export function GoTo({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const [text, setText] = useState("");
  const router = useRouter();
  const { collection } = useParams<{ collection?: string }>();
  const { data } = useQuery({
    queryKey: ["still", "go-to", text],
    enabled: open,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => api<Destination[]>(`/api/go-to?q=${encodeURIComponent(text)}`, { signal }),
  });

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === "k" && (event.ctrlKey || event.metaKey)) {
        event.preventDefault();
        onOpenChange(true);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [onOpenChange]);

  const go = (href: string) => {
    onOpenChange(false);
    setText("");
    router.push(href);
  };
  const stations = collection
    ? Object.entries(stationWords).filter(([, words]) => words.toLowerCase().includes(text.toLowerCase()))
    : [];
  const row = "flex cursor-pointer items-center gap-3 rounded-sm px-3 py-1.5 data-[selected=true]:bg-act-wash";
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-dim/45" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 z-50 w-[min(560px,calc(100vw-40px))] -translate-x-1/2 overflow-hidden rounded-md border border-rule-strong bg-sheet"
        >
          <Dialog.Title className="sr-only">Go to anything</Dialog.Title>
          <Command shouldFilter={false} label="Go to anything">
            <Command.Input
              value={text}
              onValueChange={setText}
              placeholder="A collection, delivery, plan, version, class or image"
              className="h-11 w-full border-b border-rule bg-transparent px-4 text-[15px] outline-none placeholder:text-ink-3"
            />
            <Command.List className="max-h-[50vh] overflow-auto p-1.5">
              <Command.Empty className="px-3 py-4 text-ink-3">Nothing here has that in its name.</Command.Empty>
              {stations.map(([path, words]) => (
                <Command.Item
                  key={path}
                  value={`station ${path}`}
                  onSelect={() => go(`/c/${collection}/${path}`)}
                  className={row}
                >
                  <span className="w-20 text-small text-ink-3">station</span>
                  {words}
                </Command.Item>
              ))}
              {data?.map((destination) => (
                <Command.Item
                  key={destination.kind + destination.href + destination.name}
                  value={destination.kind + destination.href}
                  onSelect={() => go(destination.href)}
                  className={row}
                >
                  <span className="w-20 text-small text-ink-3">{kindWords[destination.kind]}</span>
                  <span className="truncate">{destination.name}</span>
                  <span className="ml-auto text-small whitespace-nowrap text-ink-3">{destination.where}</span>
                </Command.Item>
              ))}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
