"use client";
import type { Labels } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import { splitNames, type Split } from "@larder/core/model/item";
import type { ClassRow } from "@larder/server/services/classes";
import { X } from "lucide-react";
import { useState } from "react";
import { Button } from "@/ui/button";

const field = "h-7 w-full rounded-md border border-dim-rule bg-dim px-1.5 text-[12.5px] text-dim-ink";
const chip = "inline-flex items-center gap-1 rounded-md border border-dim-rule px-1.5 py-0.5";

/** What is said about the image as a whole: split, classes, tags, caption, fields. */
export function ImagePanel({
  labels,
  classes,
  onSteps,
}: {
  labels: Labels;
  classes: readonly ClassRow[];
  onSteps: (steps: Step[]) => void;
}) {
  const nameOf = (id: number) => classes.find((one) => one.id === id)?.name ?? "class that is gone";
  return (
    <section aria-label="The image" className="mt-3 space-y-2 text-[12.5px]">
      <h2 className="text-[14px]">The image</h2>
      <div className="grid grid-cols-2 gap-2">
        <label>
          <span className="block text-[11.5px] text-dim-ink-2">Split</span>
          <select
            className={field}
            value={labels.split ?? ""}
            onChange={({ target }) =>
              onSteps([{ do: "set-split", split: target.value === "" ? null : (target.value as Split) }])
            }
          >
            <option value="">none</option>
            {splitNames.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </label>
        <label>
          <span className="block text-[11.5px] text-dim-ink-2">Image class</span>
          <select
            className={field}
            value=""
            onChange={({ target }) => onSteps([{ do: "add-class", class: Number(target.value) }])}
          >
            <option value="" disabled>
              add one
            </option>
            {classes
              .filter(({ id }) => !labels.classes.includes(id))
              .map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
          </select>
        </label>
      </div>
      {labels.classes.length > 0 || labels.tags.length > 0 ? (
        <p className="flex flex-wrap gap-1">
          {labels.classes.map((id) => (
            <span key={id} className={chip}>
              {nameOf(id)}
              <button
                type="button"
                aria-label={`Take ${nameOf(id)} off`}
                onClick={() => onSteps([{ do: "remove-class", class: id }])}
              >
                <X size={12} aria-hidden="true" />
              </button>
            </span>
          ))}
          {labels.tags.map((tag) => (
            <span key={tag} className={`${chip} text-dim-ink-2`}>
              {tag}
              <button
                type="button"
                aria-label={`Take the tag ${tag} off`}
                onClick={() => onSteps([{ do: "remove-tag", tag }])}
              >
                <X size={12} aria-hidden="true" />
              </button>
            </span>
          ))}
        </p>
      ) : null}
      <label className="block">
        <span className="block text-[11.5px] text-dim-ink-2">Tag</span>
        <input
          className={field}
          maxLength={100}
          placeholder="type one, Enter adds it"
          onKeyDown={(event) => {
            const tag = event.currentTarget.value.trim();
            if (event.key !== "Enter" || tag === "" || labels.tags.includes(tag)) return;
            event.currentTarget.value = "";
            onSteps([{ do: "add-tag", tag }]);
          }}
        />
      </label>
      <label className="block">
        <span className="block text-[11.5px] text-dim-ink-2">Caption</span>
        <textarea
          key={labels.captions.join("\n")}
          className={`${field} h-14 py-1`}
          defaultValue={labels.captions.join("\n")}
          onBlur={({ target }) => {
            const captions = target.value
              .split("\n")
              .map((line) => line.trim())
              .filter(Boolean);
            if (captions.join("\n") !== labels.captions.join("\n")) onSteps([{ do: "set-caption", captions }]);
          }}
        />
      </label>
      {Object.entries(labels.fields).map(([name, value]) => (
        <label key={name} className="block">
          <span className="block text-[11.5px] text-dim-ink-2">{name}</span>
          <input
            key={String(value)}
            className={field}
            defaultValue={[value].flat().join(", ")}
            onBlur={({ target }) => {
              if (target.value !== [value].flat().join(", "))
                onSteps([{ do: "set-field", name, value: target.value === "" ? null : target.value }]);
            }}
          />
        </label>
      ))}
      <NewField names={Object.keys(labels.fields)} onSteps={onSteps} />
    </section>
  );
}

/** A field that the image does not have yet. */
function NewField({ names, onSteps }: { names: readonly string[]; onSteps: (steps: Step[]) => void }) {
  const [name, setName] = useState("");
  const [value, setValue] = useState("");
  const wanted = name.trim();
  const isReady = wanted !== "" && value.trim() !== "" && !names.includes(wanted);
  return (
    <form
      className="grid grid-cols-[1fr_1fr_auto] items-end gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (!isReady) return;
        onSteps([{ do: "set-field", name: wanted, value: value.trim() }]);
        setName("");
        setValue("");
      }}
    >
      <label>
        <span className="block text-[11.5px] text-dim-ink-2">New field</span>
        <input
          className={field}
          maxLength={200}
          value={name}
          placeholder="name"
          onChange={({ target }) => setName(target.value)}
        />
      </label>
      <input
        className={field}
        aria-label="Value of the new field"
        value={value}
        placeholder="value"
        onChange={({ target }) => setValue(target.value)}
      />
      <Button look="dim" small type="submit" disabled={!isReady}>
        Add
      </Button>
    </form>
  );
}
