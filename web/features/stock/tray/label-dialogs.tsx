"use client";
import type { LabelRequest } from "@larder/core/labels/request";
import { useState, type ReactNode } from "react";
import { useClasses } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { SelectField, TextField } from "@/ui/field";

/** What the tray asks more about before it is done. */
export type Asked =
  "tag" | "untag" | "add-class" | "remove-class" | "set-classes" | "reclass" | "remove-objects" | "set-attribute";

const titles: Record<Asked, (many: string) => string> = {
  tag: (many) => `Tag ${many}`,
  untag: (many) => `Take a tag off ${many}`,
  "add-class": (many) => `Say of ${many} what they are`,
  "remove-class": (many) => `Say of ${many} what they are not`,
  "set-classes": (many) => `Let ${many} be of one class alone`,
  reclass: (many) => `Give objects on ${many} another class`,
  "remove-objects": (many) => `Remove objects from ${many}`,
  "set-attribute": (many) => `Set an attribute of ${many}`,
};

type Draft = { tag: string; classId: string; objects: string; name: string; value: string };

/** A typed value as what it reads as: a number, yes or no, nothing at all (taken off), else a text. */
function valueOf(text: string): string | number | boolean | null {
  const bare = text.trim();
  if (bare === "") return null;
  if (bare === "yes" || bare === "no") return bare === "yes";
  return /^-?\d+(\.\d+)?$/.test(bare) ? Number(bare) : bare;
}

/** The request that a filled-in dialog comes to, and what it does to each image; null while something is missing. */
function requestOf(
  asked: Asked,
  { tag, classId, objects, name, value }: Draft,
  className: string,
): { request: LabelRequest; says: string } | null {
  const id = Number(classId);
  const [label, which, attribute] = [tag.trim(), objects.trim(), name.trim()];
  switch (asked) {
    case "tag":
      return label === "" ? null : { request: { do: "tag", tag: label }, says: `the tag "${label}" is put on` };
    case "untag":
      return label === "" ? null : { request: { do: "untag", tag: label }, says: `the tag "${label}" is taken off` };
    case "add-class":
      return id ? { request: { do: "add-class", class: id }, says: `the image is said to be ${className}` } : null;
    case "remove-class":
      return id ? { request: { do: "remove-class", class: id }, says: `the image is not ${className} any more` } : null;
    case "set-classes":
      return id
        ? { request: { do: "set-classes", classes: [id] }, says: `the image is ${className} and nothing else` }
        : null;
    case "reclass":
      return id && which !== ""
        ? { request: { do: "reclass", objects: which, class: id }, says: `every ${which} becomes ${className}` }
        : null;
    case "remove-objects":
      return which === "" ? null : { request: { do: "remove-objects", objects: which }, says: `every ${which} goes` };
    case "set-attribute": {
      if (attribute === "") return null;
      const set = valueOf(value);
      return {
        request: { do: "set-attribute", name: attribute, value: set },
        says: set === null ? `${attribute} is taken off` : `${attribute} is set to ${value.trim()}`,
      };
    }
  }
}

const ofTag = new Set<Asked>(["tag", "untag"]);
const ofObjects = new Set<Asked>(["reclass", "remove-objects"]);
const ofClass = new Set<Asked>(["add-class", "remove-class", "set-classes", "reclass"]);

/** Asks what is missing of an act, and says in a line what it will do before it is done. */
export function LabelDialog({
  asked,
  many,
  collection,
  onDo,
  onClose,
}: {
  asked: Asked;
  many: string;
  collection: number;
  onDo: (request: LabelRequest) => void;
  onClose: () => void;
}) {
  const { data: classes } = useClasses(collection);
  const [draft, setDraft] = useState<Draft>({ tag: "", classId: "", objects: "any", name: "", value: "" });
  const set = (change: Partial<Draft>) => setDraft((before) => ({ ...before, ...change }));
  const className = classes?.find(({ id }) => id === Number(draft.classId))?.name ?? "";
  const wish = requestOf(asked, draft, className);
  const fields: ReactNode[] = [];
  if (ofTag.has(asked))
    fields.push(
      <TextField
        key="tag"
        label="Tag"
        autoFocus
        maxLength={100}
        value={draft.tag}
        onChange={(event) => set({ tag: event.target.value })}
      />,
    );
  if (ofObjects.has(asked))
    fields.push(
      <TextField
        key="objects"
        label="Which objects"
        autoFocus
        value={draft.objects}
        onChange={(event) => set({ objects: event.target.value })}
        hint="A class, any, or a set in braces; conditions in brackets: roll (share < 1%)"
      />,
    );
  if (ofClass.has(asked))
    fields.push(
      <SelectField
        key="class"
        label={asked === "reclass" ? "Become" : "Class"}
        value={draft.classId}
        options={[
          { value: "", label: "Choose a class" },
          ...(classes ?? []).map(({ id, name }) => ({ value: String(id), label: name })),
        ]}
        onChange={(classId) => set({ classId })}
      />,
    );
  if (asked === "set-attribute")
    fields.push(
      <TextField
        key="name"
        label="Attribute"
        autoFocus
        maxLength={200}
        value={draft.name}
        onChange={(event) => set({ name: event.target.value })}
      />,
      <TextField
        key="value"
        label="Value"
        value={draft.value}
        onChange={(event) => set({ value: event.target.value })}
        hint="Left empty, the attribute is taken off."
      />,
    );
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={titles[asked](many)}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (wish) onDo(wish.request);
        }}
      >
        {fields}
        <p aria-live="polite" className="min-h-5 text-ink-2">
          {wish ? `On ${many}: ${wish.says}.` : ""}
        </p>
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go" disabled={!wish}>
            {titles[asked](many)}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
