"use client";
import { ChevronDown, Moon, Search, Sun } from "lucide-react";
import Link from "next/link";
import { useParams, usePathname } from "next/navigation";
import { useState } from "react";
import { LarderMark } from "@/ui/marks";
import { bandColour } from "@/ui/colours";
import { Menu, MenuItem, MenuRule } from "@/ui/menu";
import { useCollection, useShelves } from "@/features/live/queries";
import { GoTo } from "./go-to";
import { Jobs } from "./jobs";
import { StationLine } from "./station-line";

function useCollectionId(): number | null {
  const { collection } = useParams<{ collection?: string }>();
  const id = Number(collection);
  return Number.isInteger(id) && id > 0 ? id : null;
}

function toggleTheme() {
  const next = document.documentElement.dataset["theme"] === "dark" ? "light" : "dark";
  document.documentElement.dataset["theme"] = next;
  localStorage.setItem("larder-theme", next);
}

/** The strip that is always there: where one is, go-to-anything, jobs, oneself; under it a collection's line. */
export function Masthead() {
  const id = useCollectionId();
  const pathname = usePathname();
  const { data: head } = useCollection(id);
  const { data: shelves } = useShelves();
  const [searching, setSearching] = useState(false);
  return (
    <header className="sticky top-0 z-30 bg-sheet">
      <div className="flex h-[46px] items-center gap-3.5 border-b border-rule px-5">
        <Link href="/" className="flex items-center gap-2 font-title text-[18px] font-bold tracking-[-0.03em] text-act">
          <LarderMark />
          Larder
        </Link>
        <span className="text-ink-3" aria-hidden="true">
          /
        </span>
        {id === null ? (
          <span className="font-semibold">{pathname === "/" ? "Shelves" : ""}</span>
        ) : (
          <Menu
            align="start"
            trigger={
              <button
                type="button"
                className="-mx-1.5 flex items-center gap-1 rounded-sm px-1.5 py-0.5 font-semibold hover:bg-well"
              >
                {head?.name ?? "…"} <ChevronDown size={14} aria-hidden="true" />
              </button>
            }
          >
            {shelves?.map((shelf) => (
              <MenuItem key={shelf.id} asChild>
                <Link href={`/c/${shelf.id}/stock`}>
                  <span
                    className="h-3.5 w-1.5 rounded-[1px]"
                    style={{ background: bandColour(shelf.band) }}
                    aria-hidden="true"
                  />
                  {shelf.name}
                </Link>
              </MenuItem>
            ))}
            <MenuRule />
            <MenuItem asChild>
              <Link href={`/c/${id}/history`}>History and bin of {head?.name ?? "this collection"}</Link>
            </MenuItem>
            <MenuItem asChild>
              <Link href="/">All shelves</Link>
            </MenuItem>
          </Menu>
        )}
        <button
          type="button"
          onClick={() => setSearching(true)}
          className="ml-auto flex h-[30px] w-[250px] items-center gap-2 rounded-md border border-rule bg-ground px-2.5 text-ink-3 hover:border-rule-strong"
        >
          <Search size={14} aria-hidden="true" /> Go to anything
          <kbd className="ml-auto rounded-sm border border-rule-strong bg-sheet px-1.5 font-text text-[11px] text-ink-2">
            Ctrl K
          </kbd>
        </button>
        <Jobs />
        <button
          type="button"
          onClick={toggleTheme}
          aria-label="Light or dark"
          className="grid size-[28px] place-items-center rounded-md text-ink-2 hover:bg-well"
        >
          <Sun size={16} className="hidden dark:block" aria-hidden="true" />
          <Moon size={16} className="dark:hidden" aria-hidden="true" />
        </button>
      </div>
      {id !== null && head ? <StationLine collection={id} line={head.line} band={head.band} /> : null}
      {id !== null && !head ? <div className="h-[47px] border-b-[3px] border-rule bg-sheet" /> : null}
      <GoTo open={searching} onOpenChange={setSearching} />
    </header>
  );
}
