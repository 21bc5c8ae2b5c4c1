"use client";
import { useRouter } from "next/navigation";
import { useRef, useState } from "react";
import { useCollection } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { Menu, MenuItem } from "@/ui/menu";
import { number } from "@/ui/words";
import { droppedFiles } from "./sending/dropped";
import { send } from "./sending/sendings";
import { SendingsList } from "./sending/sendings-list";
import { SourceDialog, sourceTitles, type SourceKind } from "./sources/source-dialog";

/** Where deliveries arrive: drop anything, choose it, or bring it from elsewhere. */
export function Arrivals({ collection }: { collection: number }) {
  const router = useRouter();
  const { data: head } = useCollection(collection);
  const [over, setOver] = useState(false);
  const [walking, setWalking] = useState<string | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const [source, setSource] = useState<SourceKind | null>(null);
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const show = (delivery: number) => {
    // Whoever has gone elsewhere meanwhile is left there.
    if (window.location.pathname === `/c/${collection}/deliveries`)
      router.push(`/c/${collection}/deliveries/${delivery}`);
  };
  const take = async (event: Event) => {
    setWalking("Looking through what was dropped …");
    try {
      const dropped = await droppedFiles(event, (seen, of) =>
        setWalking(`Looking through what was dropped: ${number(seen)} of ${number(of)} files`),
      );
      setRefused(dropped.length === 0 ? "There is no file in what was dropped." : null);
      if (dropped.length > 0)
        send({ collection, files: dropped, stocked: (head?.line.stock ?? 0) > 0, onArrived: show });
    } catch (error) {
      setRefused(error instanceof Error ? error.message : "This could not be read.");
    } finally {
      setWalking(null);
    }
  };
  return (
    <>
      <SendingsList collection={collection} />
      <section
        aria-label="Take in a delivery"
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault();
          setOver(false);
          void take(event.nativeEvent);
        }}
        className={`mx-5 flex flex-wrap items-center gap-x-6 gap-y-3 rounded-md border border-dashed px-5 py-5 ${over ? "border-act bg-act-wash" : "border-rule-strong"}`}
      >
        <div className="max-w-[620px] flex-1">
          <p className="font-semibold">Drop images and labels here: files, folders, archives, PDFs, in any mix</p>
          <p className="text-ink-2">
            COCO, VOC, YOLO, tables, masks, shards or folders named by class: any of seventeen formats, of any size. You
            see what was understood before anything is stored.
          </p>
          {walking ? <p className="mt-1 text-info">{walking}</p> : null}
          {refused ? <p className="mt-1 text-harm">{refused}</p> : null}
        </div>
        <input
          ref={files}
          type="file"
          multiple
          className="sr-only"
          aria-label="Files to take in"
          tabIndex={-1}
          onChange={(event) => void take(event.nativeEvent)}
        />
        <input
          ref={folder}
          type="file"
          {...{ webkitdirectory: "" }}
          className="sr-only"
          aria-label="Folder to take in"
          tabIndex={-1}
          onChange={(event) => void take(event.nativeEvent)}
        />
        <div className="ml-auto flex gap-2">
          <Menu trigger={<Button>Bring from elsewhere</Button>}>
            {(Object.keys(sourceTitles) as SourceKind[]).map((kind) => (
              <MenuItem key={kind} onSelect={() => setSource(kind)}>
                {sourceTitles[kind]}
              </MenuItem>
            ))}
          </Menu>
          <Button onClick={() => folder.current?.click()}>Choose a folder</Button>
          <Button look="go" onClick={() => files.current?.click()}>
            Choose files
          </Button>
        </div>
      </section>
      {source ? (
        <SourceDialog
          collection={collection}
          kind={source}
          onDone={() => setSource(null)}
          onBegun={(delivery) => router.push(`/c/${collection}/deliveries/${delivery}`)}
        />
      ) : null}
    </>
  );
}
