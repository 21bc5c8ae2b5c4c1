"use client";
import type { ClassRow } from "@larder/server/services/classes";
import { MoreHorizontal } from "lucide-react";
import { useState, type ComponentType } from "react";
import { Menu, MenuItem, MenuRule } from "@/ui/menu";
import { AttributesDialog } from "./attributes-dialog";
import { DropDialog } from "./drop-dialog";
import { FactsDialog } from "./facts-dialog";
import { MergeDialog } from "./merge-dialog";
import { RenameDialog } from "./rename-dialog";
import { SplitOffDialog } from "./split-off-dialog";

type Asking = { row: ClassRow; rows: readonly ClassRow[]; collection: number; onClose: () => void };

const dialogs = {
  rename: RenameDialog,
  facts: FactsDialog,
  attributes: AttributesDialog,
  merge: MergeDialog,
  split: SplitOffDialog,
  drop: DropDialog,
} satisfies Record<string, ComponentType<Asking>>;

/** What can be done to a class. */
export function ClassMenu({ row, rows, collection }: { row: ClassRow; rows: readonly ClassRow[]; collection: number }) {
  const [asked, setAsked] = useState<keyof typeof dialogs | null>(null);
  const Asked: ComponentType<Asking> | null = asked === null ? null : dialogs[asked];
  return (
    <>
      <Menu
        trigger={
          <button type="button" aria-label={`Change ${row.name}`} className="rounded-sm px-1.5 py-1 hover:bg-well">
            <MoreHorizontal size={15} aria-hidden="true" />
          </button>
        }
      >
        <MenuItem onSelect={() => setAsked("rename")}>Rename</MenuItem>
        <MenuItem onSelect={() => setAsked("facts")}>Code, colour, parent</MenuItem>
        <MenuItem onSelect={() => setAsked("attributes")}>Attributes</MenuItem>
        <MenuRule />
        {rows.length > 1 ? <MenuItem onSelect={() => setAsked("merge")}>Merge into another</MenuItem> : null}
        <MenuItem onSelect={() => setAsked("split")}>Split off a new class</MenuItem>
        <MenuRule />
        <MenuItem harm onSelect={() => setAsked("drop")}>
          Remove
        </MenuItem>
      </Menu>
      {Asked ? <Asked row={row} rows={rows} collection={collection} onClose={() => setAsked(null)} /> : null}
    </>
  );
}
