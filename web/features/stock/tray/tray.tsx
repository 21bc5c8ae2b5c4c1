"use client";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { toast } from "sonner";
import type { LabelRequest } from "@larder/core/labels/request";
import type { Selection } from "@larder/core/selection/chosen";
import { useActs } from "@/features/acts/use-acts";
import { api } from "@/features/live/api";
import { useShelves } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { Menu, MenuItem, MenuRule } from "@/ui/menu";
import { count, number } from "@/ui/words";
import { ExportDialog } from "./export-dialog";
import { LabelDialog, type Asked } from "./label-dialogs";
import { PlanDialog } from "./plan-dialog";
import { TrayBar } from "./tray-bar";

/** What can be done to what is picked, lifted from the bottom edge. */
export function Tray({
  collection,
  selection,
  size,
  matching,
  onAll,
  onClear,
  onLookAlikes,
  formats,
}: {
  collection: number;
  selection: Selection;
  size: number;
  matching: number;
  onAll: () => void;
  onClear: () => void;
  /** Shows what is most like what is picked; null where too many are picked to be an example. */
  onLookAlikes: (() => void) | null;
  /** Formats that packages are written in. */
  formats: readonly string[];
}) {
  const router = useRouter();
  const { data: shelves } = useShelves();
  const { act } = useActs(collection);
  const [asked, setAsked] = useState<Asked | null>(null);
  const [exporting, setExporting] = useState(false);
  const [planning, setPlanning] = useState(false);
  const perform = (request: LabelRequest) => act(selection, request, size);
  const others = (shelves ?? []).filter(({ id }) => id !== collection);
  const many = count(size, "image");
  // A delivery of its own there: its sheet shows how classes match before anything is stored.
  const bring = async (target: number, move: boolean) => {
    try {
      const { id } = await api<{ id: number }>(`/api/collections/${target}/deliveries`, {
        method: "POST",
        body: { kind: "collection", collection, selection, labels: true, move },
      });
      router.push(`/c/${target}/deliveries/${id}`);
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <TrayBar
      label="What is selected"
      many={many}
      onClear={onClear}
      more={
        size < matching ? (
          <>
            , or{" "}
            <button type="button" onClick={onAll} className="underline">
              to all {number(matching)}
            </button>
          </>
        ) : null
      }
    >
      {(["train", "val", "test"] as const).map((split) => (
        <Button key={split} look="dim" small onClick={() => void perform({ do: "move", split })}>
          Move to {split}
        </Button>
      ))}
      <Button look="dim" small onClick={() => setAsked("tag")}>
        Tag
      </Button>
      <Menu
        trigger={
          <Button look="dim" small>
            Classes
          </Button>
        }
      >
        <MenuItem onSelect={() => setAsked("reclass")}>Give objects another class</MenuItem>
        <MenuItem onSelect={() => setAsked("remove-objects")}>Remove objects</MenuItem>
        <MenuRule />
        <MenuItem onSelect={() => setAsked("add-class")}>Say what the images are</MenuItem>
        <MenuItem onSelect={() => setAsked("remove-class")}>Say what they are not</MenuItem>
        <MenuItem onSelect={() => setAsked("set-classes")}>Let them be of one class alone</MenuItem>
      </Menu>
      {others.length > 0 ? (
        <Menu
          trigger={
            <Button look="dim" small>
              Bring to a collection
            </Button>
          }
        >
          {others.map((other) => (
            <MenuItem key={other.id} onSelect={() => void bring(other.id, false)}>
              Copy to {other.name}
            </MenuItem>
          ))}
          <MenuRule />
          {others.map((other) => (
            <MenuItem key={other.id} onSelect={() => void bring(other.id, true)}>
              Move to {other.name}
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
        {onLookAlikes ? <MenuItem onSelect={onLookAlikes}>Show what looks alike</MenuItem> : null}
        <MenuItem onSelect={() => setPlanning(true)}>Hand them to a plan</MenuItem>
        <MenuItem onSelect={() => setExporting(true)}>Pack them now</MenuItem>
        <MenuRule />
        <MenuItem onSelect={() => void perform({ do: "move", split: null })}>Take out of splits</MenuItem>
        <MenuItem onSelect={() => void perform({ do: "pin", pinned: true })}>Pin to their splits</MenuItem>
        <MenuItem onSelect={() => void perform({ do: "pin", pinned: false })}>Unpin</MenuItem>
        <MenuItem onSelect={() => setAsked("untag")}>Take a tag off</MenuItem>
        <MenuItem onSelect={() => setAsked("set-attribute")}>Set an attribute</MenuItem>
        <MenuRule />
        <MenuItem onSelect={() => void perform({ do: "mark-empty" })}>Mark as empty</MenuItem>
        <MenuItem onSelect={() => void perform({ do: "mark-unlabeled" })}>Mark as unlabeled</MenuItem>
        <MenuRule />
        <MenuItem harm onSelect={() => void perform({ do: "remove" }).then(onClear)}>
          Put into the bin
        </MenuItem>
      </Menu>
      {exporting ? (
        <ExportDialog {...{ collection, selection, many, formats }} onClose={() => setExporting(false)} />
      ) : null}
      {planning ? <PlanDialog {...{ collection, selection, many }} onClose={() => setPlanning(false)} /> : null}
      {asked ? (
        <LabelDialog
          asked={asked}
          many={many}
          collection={collection}
          onClose={() => setAsked(null)}
          onDo={(request) => {
            setAsked(null);
            void perform(request);
          }}
        />
      ) : null}
    </TrayBar>
  );
}
