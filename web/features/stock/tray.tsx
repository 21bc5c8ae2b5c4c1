"use client";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { toast } from "sonner";
import type { Selection } from "@larder/core/selection/chosen";
import { useActs } from "@/features/acts/use-acts";
import { api } from "@/features/live/api";
import { useShelves } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { Menu, MenuItem, MenuRule } from "@/ui/menu";
import { count, number } from "@/ui/words";

/** Asks for the tag that images get. */
function TagDialog({ many, onTag, onClose }: { many: string; onTag: (tag: string) => void; onClose: () => void }) {
  const [tag, setTag] = useState("");
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={`Tag ${many}`}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (tag.trim() !== "") onTag(tag.trim());
        }}
      >
        <TextField label="Tag" autoFocus maxLength={100} value={tag} onChange={(event) => setTag(event.target.value)} />
        <div className="mt-4 flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button look="go" type="submit" disabled={tag.trim() === ""}>
            Tag {many}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** What can be done to what is picked, lifted from the bottom edge. */
export function Tray({
  collection,
  selection,
  size,
  matching,
  onAll,
  onClear,
}: {
  collection: number;
  selection: Selection;
  size: number;
  matching: number;
  onAll: () => void;
  onClear: () => void;
}) {
  const router = useRouter();
  const { data: shelves } = useShelves();
  const { act } = useActs(collection);
  const [tagging, setTagging] = useState(false);
  const others = (shelves ?? []).filter(({ id }) => id !== collection);
  const many = count(size, "image");
  // A delivery of its own there: its sheet shows how classes match before anything is stored.
  const bring = async (target: number) => {
    try {
      const { id } = await api<{ id: number }>(`/api/collections/${target}/deliveries`, {
        method: "POST",
        body: { kind: "collection", collection, selection, labels: true },
      });
      router.push(`/c/${target}/deliveries/${id}`);
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <div
      role="toolbar"
      aria-label="What is selected"
      className="rise fixed bottom-3 left-1/2 z-20 flex max-w-[calc(100vw-24px)] -translate-x-1/2 items-center gap-2 rounded-md bg-dim px-4 py-2 whitespace-nowrap text-dim-ink"
    >
      <span className="mr-1">
        What is chosen here is done to <b className="font-title text-[15px] font-semibold">{many}</b>
        {size < matching ? (
          <>
            , or{" "}
            <button type="button" onClick={onAll} className="underline">
              to all {number(matching)}
            </button>
          </>
        ) : null}
        :
      </span>
      {(["train", "val", "test"] as const).map((split) => (
        <Button key={split} look="dim" small onClick={() => void act(selection, { do: "move", split })}>
          Move to {split}
        </Button>
      ))}
      <Button look="dim" small onClick={() => setTagging(true)}>
        Tag
      </Button>
      {others.length > 0 ? (
        <Menu
          trigger={
            <Button look="dim" small>
              Bring to a collection
            </Button>
          }
        >
          {others.map((other) => (
            <MenuItem key={other.id} onSelect={() => void bring(other.id)}>
              {other.name}
            </MenuItem>
          ))}
        </Menu>
      ) : null}
      <Menu
        trigger={
          <Button look="dim" small>
            More
          </Button>
        }
      >
        <MenuItem onSelect={() => void act(selection, { do: "move", split: null })}>Take out of splits</MenuItem>
        <MenuItem onSelect={() => void act(selection, { do: "pin", pinned: true })}>Pin to their splits</MenuItem>
        <MenuItem onSelect={() => void act(selection, { do: "pin", pinned: false })}>Unpin</MenuItem>
        <MenuItem onSelect={() => void act(selection, { do: "mark-empty" })}>Mark as empty</MenuItem>
        <MenuRule />
        <MenuItem harm onSelect={() => void act(selection, { do: "remove" }).then(onClear)}>
          Put into the bin
        </MenuItem>
      </Menu>
      <button type="button" onClick={onClear} className="ml-2 text-dim-ink-2 hover:text-dim-ink">
        Esc
      </button>
      {tagging ? (
        <TagDialog
          many={many}
          onClose={() => setTagging(false)}
          onTag={(tag) => {
            setTagging(false);
            void act(selection, { do: "tag", tag });
          }}
        />
      ) : null}
    </div>
  );
}
