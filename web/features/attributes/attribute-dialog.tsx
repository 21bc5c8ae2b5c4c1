"use client";
import { attributeSchemaSchema, type AttributeSchema } from "@larder/core/model/attribute-schema";
import { useState } from "react";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { SelectField, TextField } from "@/ui/field";

const kinds: Record<AttributeSchema["kind"], string> = {
  choice: "One of some values",
  several: "Some of several values",
  number: "A number",
  text: "A text",
  "yes-no": "Yes or no",
};

const numberIn = (text: string) => (text.trim() === "" ? {} : Number(text));

/** Makes an attribute, or changes what one may hold; `what` is what it is called where it stands. */
export function AttributeDialog({
  what = "attribute",
  former,
  taken,
  onSave,
  onClose,
}: {
  what?: "attribute" | "column";
  former: AttributeSchema | null;
  /** Names that others have. */
  taken: readonly string[];
  onSave: (attribute: AttributeSchema) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState(former?.name ?? "");
  const [kind, setKind] = useState<AttributeSchema["kind"]>(former?.kind ?? "choice");
  const [values, setValues] = useState(former && "values" in former ? former.values.join("\n") : "");
  const [least, setLeast] = useState(former?.kind === "number" ? String(former.least ?? "") : "");
  const [most, setMost] = useState(former?.kind === "number" ? String(former.most ?? "") : "");
  const lines = [...new Set(values.split("\n").map((line) => line.trim()))].filter((line) => line !== "");
  const bounds = {
    ...(typeof numberIn(least) === "number" ? { least: Number(least) } : {}),
    ...(typeof numberIn(most) === "number" ? { most: Number(most) } : {}),
  };
  const parsed = attributeSchemaSchema.safeParse({
    name,
    kind,
    ...(kind === "choice" || kind === "several" ? { values: lines } : {}),
    ...(kind === "number" ? bounds : {}),
  });
  const wrong = taken.includes(name.trim())
    ? `Another ${what} has this name.`
    : kind === "number" && Number(least || -Infinity) > Number(most || Infinity)
      ? "The least is more than the most."
      : null;
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={former ? `What ${former.name} may hold` : `A new ${what}`}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (parsed.success && !wrong) onSave(parsed.data);
        }}
      >
        {former ? null : (
          <TextField
            label="Name"
            autoFocus
            maxLength={200}
            value={name}
            error={wrong && taken.includes(name.trim()) ? wrong : undefined}
            onChange={(event) => setName(event.target.value)}
          />
        )}
        <SelectField
          label="It holds"
          value={kind}
          options={Object.entries(kinds).map(([value, label]) => ({ value, label }))}
          onChange={(next) => setKind(next as AttributeSchema["kind"])}
        />
        {kind === "choice" || kind === "several" ? (
          <label className="block text-small font-medium text-ink-2">
            Values, one a line
            <textarea
              rows={5}
              value={values}
              onChange={(event) => setValues(event.target.value)}
              className="mt-1 w-full rounded-md border border-rule-strong bg-sheet px-2.5 py-1.5 font-normal text-ink"
            />
          </label>
        ) : null}
        {kind === "number" ? (
          <div className="grid grid-cols-2 gap-3">
            <TextField label="At least" value={least} onChange={(event) => setLeast(event.target.value)} />
            <TextField
              label="At most"
              value={most}
              error={wrong ?? undefined}
              onChange={(event) => setMost(event.target.value)}
            />
          </div>
        ) : null}
        <p className="text-ink-2">What is said already stays as it is.</p>
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go" disabled={!parsed.success || wrong !== null}>
            {former ? "Save" : `Add the ${what}`}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
