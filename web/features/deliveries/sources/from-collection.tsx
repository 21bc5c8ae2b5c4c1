"use client";
import { useState } from "react";
import { useClasses, useShelves } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { DialogCancel } from "@/ui/dialog";
import { Choice } from "@/ui/choice";
import { SelectField } from "@/ui/field";
import { count } from "@/ui/words";
import type { Begin } from "./begin";

/** Another collection: all of it or one class, with labels or without. */
export function FromCollection({ collection, begin, busy }: { collection: number; begin: Begin; busy: boolean }) {
  const { data } = useShelves();
  const others = (data ?? []).filter(({ id, images }) => id !== collection && images > 0);
  const [chosen, setChosen] = useState<number | null>(null);
  const from = others.find(({ id }) => id === chosen) ?? others[0];
  const { data: classes } = useClasses(from?.id ?? 0);
  const [name, setName] = useState("");
  const [labels, setLabels] = useState<"with" | "without">("with");
  if (!data) return null;
  if (!from) return <p className="text-ink-2">No other collection holds an image.</p>;
  const row = classes?.find((candidate) => candidate.name === name);
  return (
    <>
      <SelectField
        label="Collection"
        value={String(from.id)}
        options={others.map(({ id, name: title, images }) => ({
          value: String(id),
          label: `${title}, ${count(images, "image")}`,
        }))}
        onChange={(next) => {
          setChosen(Number(next));
          setName("");
        }}
      />
      <SelectField
        className="mt-3"
        label="Which images"
        value={name}
        options={[
          { value: "", label: `all ${count(from.images, "image")}` },
          ...(classes ?? []).map((entry) => ({
            value: entry.name,
            label: `with the class ${entry.name}, ${count(entry.images, "image")}`,
          })),
        ]}
        onChange={setName}
      />
      <div className="mt-4 flex items-center gap-3">
        <Choice
          label="Labels"
          value={labels}
          onChange={setLabels}
          options={[
            { value: "with", label: "With labels" },
            { value: "without", label: "Without" },
          ]}
        />
        <span className="text-small text-ink-3">
          {labels === "without"
            ? "The images come in unlabeled."
            : row
              ? `Only the labels of ${row.name} come along.`
              : "All labels come along."}
        </span>
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <DialogCancel />
        <Button
          look="go"
          disabled={busy}
          onClick={() =>
            void begin({
              kind: "collection",
              collection: from.id,
              class: name === "" ? null : name,
              selection: null,
              labels: labels === "with",
            })
          }
        >
          Bring {count(row?.images ?? from.images, "image")}
        </Button>
      </div>
    </>
  );
}
