"use client";
import { attributeMisfit, attributeSchemaSchema, type AttributeSchema } from "@larder/core/model/attribute-schema";
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

const linesOf = (text: string) => [
  ...new Set(
    text
      .split("\n")
      .map((line) => line.trim())
      .filter((line) => line !== ""),
  ),
];

/** What holds where nobody says a value, as it is typed; an empty text where nothing does. */
function usualText(former: AttributeSchema | null): string {
  const usual = former?.default;
  if (usual === undefined) return "";
  if (typeof usual === "boolean") return usual ? "yes" : "no";
  return Array.isArray(usual) ? usual.join("\n") : String(usual);
}

/** The same as a value of the kind; undefined where nothing is typed. */
function usualValue(kind: AttributeSchema["kind"], text: string): unknown {
  if (text.trim() === "") return undefined;
  if (kind === "number") return Number(text);
  if (kind === "yes-no") return text === "yes";
  return kind === "several" ? linesOf(text) : text;
}

/** Several values, one a line. */
function LinesField({
  label,
  rows,
  value,
  onChange,
}: {
  label: string;
  rows: number;
  value: string;
  onChange: (value: string) => void;
}) {
  return (
    <label className="block text-small font-medium text-ink-2">
      {label}
      <textarea
        rows={rows}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className="mt-1 w-full rounded-md border border-rule-strong bg-sheet px-2.5 py-1.5 font-normal text-ink"
      />
    </label>
  );
}

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
  const [usual, setUsual] = useState(usualText(former));
  const [required, setRequired] = useState(former?.required ?? false);
  const [help, setHelp] = useState(former?.help ?? "");
  const lines = linesOf(values);
  const usually = usualValue(kind, usual);
  const bounds = {
    ...(typeof numberIn(least) === "number" ? { least: Number(least) } : {}),
    ...(typeof numberIn(most) === "number" ? { most: Number(most) } : {}),
  };
  const parsed = attributeSchemaSchema.safeParse({
    name,
    kind,
    ...(kind === "choice" || kind === "several" ? { values: lines } : {}),
    ...(kind === "number" ? bounds : {}),
    ...(usually === undefined ? {} : { default: usually }),
    ...{ required, help: help.trim() },
  });
  const misfit = parsed.success && usually !== undefined ? attributeMisfit(parsed.data, usually) : null;
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
          if (parsed.success && !wrong && !misfit) onSave(parsed.data);
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
          onChange={(next) => {
            setKind(next as AttributeSchema["kind"]);
            setUsual("");
          }}
        />
        {kind === "choice" || kind === "several" ? (
          <LinesField label="Values, one a line" rows={5} value={values} onChange={setValues} />
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
        {kind === "choice" || kind === "yes-no" ? (
          <SelectField
            label="Where nobody says it, it is"
            value={usual}
            options={[
              { value: "", label: "not known" },
              ...(kind === "yes-no" ? ["yes", "no"] : [...new Set([...lines, ...(usual === "" ? [] : [usual])])]).map(
                (value) => ({ value, label: value }),
              ),
            ]}
            onChange={setUsual}
          />
        ) : kind === "several" ? (
          <LinesField label="Where nobody says it, it is (one a line)" rows={2} value={usual} onChange={setUsual} />
        ) : (
          <TextField
            label="Where nobody says it, it is"
            value={usual}
            placeholder="not known"
            onChange={(event) => setUsual(event.target.value)}
          />
        )}
        {misfit ? (
          <p role="alert" className="text-small text-harm">
            {misfit}
          </p>
        ) : null}
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={required} onChange={(event) => setRequired(event.target.checked)} />
          It has to be said
        </label>
        <TextField
          label="Help for who says it"
          maxLength={1000}
          value={help}
          onChange={(event) => setHelp(event.target.value)}
        />
        <p className="text-ink-2">What is said already stays as it is.</p>
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go" disabled={!parsed.success || wrong !== null || misfit !== null}>
            {former ? "Save" : `Add the ${what}`}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
