"use client";
import { useState } from "react";
import { Button } from "@/ui/button";
import { Choice } from "@/ui/choice";
import { SearchField, searchedFrom } from "@/ui/search-field";
import { Popover } from "@/ui/popover";
import { shapeLooks, usualLight, type View } from "./use-view";

function Light({ label, value, onChange }: { label: string; value: number; onChange: (value: number) => void }) {
  return (
    <label className="flex items-center gap-3">
      <span className="w-20">{label}</span>
      <input
        type="range"
        min={40}
        max={220}
        step={5}
        value={value}
        onChange={(event) => onChange(Number(event.target.value))}
        className="flex-1 accent-[var(--color-act)]"
      />
      <span className="w-12 text-right text-ink-3 tabular-nums">{value}%</span>
    </label>
  );
}

/** How the pictures of the grid are drawn: shapes, of which classes, in which light. */
export function ViewMenu({ view, classes }: { view: View; classes: readonly string[] }) {
  const [sought, setSought] = useState("");
  const shown = classes.filter((name) => name.toLowerCase().includes(sought.trim().toLowerCase()));
  const changed = view.viewAddress !== "";
  return (
    <Popover
      label="View"
      className="flex w-80 flex-col gap-3 p-4"
      trigger={<Button small>View{changed ? " · changed" : ""}</Button>}
    >
      <div className="flex items-center justify-between">
        <span>Shapes</span>
        <Choice
          label="Shapes"
          value={view.shapes}
          options={shapeLooks.map((value) => ({ value, label: value }))}
          onChange={(shapes) => view.set({ shapes })}
        />
      </div>
      {classes.length > 0 && view.shapes !== "off" ? (
        <fieldset>
          <legend className="mb-1 flex w-full justify-between text-small text-ink-3">
            <span>Drawn</span>
            <span className="flex gap-3">
              <button type="button" className="underline" onClick={() => view.set({ hide: [] })}>
                all
              </button>
              <button type="button" className="underline" onClick={() => view.set({ hide: [...classes] })}>
                none
              </button>
            </span>
          </legend>
          {classes.length > searchedFrom ? (
            <SearchField label="Find a class" value={sought} onChange={setSought} className="mb-1 h-[24px] w-full" />
          ) : null}
          <div className="max-h-40 overflow-y-auto">
            {shown.map((name) => (
              <label key={name} className="flex items-center gap-2 py-0.5">
                <input
                  type="checkbox"
                  checked={!view.hide.includes(name)}
                  onChange={(event) =>
                    view.set({
                      hide: event.target.checked ? view.hide.filter((hidden) => hidden !== name) : [...view.hide, name],
                    })
                  }
                  className="accent-[var(--color-act)]"
                />
                <span className="truncate" title={name}>
                  {name}
                </span>
              </label>
            ))}
          </div>
        </fieldset>
      ) : null}
      <Light label="Brightness" value={view.brightness} onChange={(brightness) => view.set({ brightness })} />
      <Light label="Contrast" value={view.contrast} onChange={(contrast) => view.set({ contrast })} />
      {changed ? (
        <Button
          small
          onClick={() => view.set({ shapes: "outlines", hide: [], brightness: usualLight, contrast: usualLight })}
        >
          As usual
        </Button>
      ) : null}
    </Popover>
  );
}
