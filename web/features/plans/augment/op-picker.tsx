"use client";
import { ops } from "@larder/core/imaging/ops/registry";
import { Plus } from "lucide-react";
import { useState } from "react";
import { Button } from "@/ui/button";
import { Popover } from "@/ui/popover";

/** A new line, typed or picked from a list by what it helps against. */
export function OpPicker({
  onPick,
  label = "Add an augmentation",
}: {
  onPick: (name: string) => void;
  label?: string;
}) {
  const [open, setOpen] = useState(false);
  const [sought, setSought] = useState("");
  const word = sought.trim().toLowerCase();
  const shown = ops.filter(
    ({ name, title, against, help }) =>
      word === "" || `${name} ${title} ${against} ${help}`.toLowerCase().includes(word),
  );
  const groups = [...new Set(shown.map(({ against }) => against))].sort();
  const pick = (name: string) => {
    onPick(name);
    setOpen(false);
    setSought("");
  };
  return (
    <Popover
      label={label}
      align="start"
      className="flex max-h-[400px] w-[320px] flex-col"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <Button small>
          <Plus size={13} aria-hidden="true" /> {label}
        </Button>
      }
    >
      <input
        aria-label="Find an augmentation"
        placeholder="what it does, or helps against"
        value={sought}
        onChange={(event) => setSought(event.target.value)}
        onKeyDown={(event) => {
          const [first] = shown;
          if (event.key === "Enter" && first) pick(first.name);
        }}
        className="m-2 h-[28px] rounded-md border border-rule-strong bg-sheet px-2"
      />
      <div className="overflow-y-auto px-1 pb-2">
        {groups.map((against) => (
          <section key={against} aria-label={against}>
            <p className="px-2 pt-1.5 text-[11.5px] text-ink-3">against {against}</p>
            {shown
              .filter((op) => op.against === against)
              .map(({ name, title, help }) => (
                <button
                  key={name}
                  type="button"
                  onClick={() => pick(name)}
                  className="block w-full rounded-sm px-2 py-1 text-left hover:bg-well"
                >
                  <b className="font-semibold">{title}</b>
                  <span className="block truncate text-[12px] text-ink-3">{help}</span>
                </button>
              ))}
          </section>
        ))}
        {shown.length === 0 ? <p className="px-2 py-2 text-ink-3">Nothing is called so.</p> : null}
      </div>
    </Popover>
  );
}
