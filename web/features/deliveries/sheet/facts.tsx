"use client";
import { deliveryFactsSchema, noFacts, type DeliveryFacts } from "@larder/core/intake/facts";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { count, dayAndTime } from "@/ui/words";
import type { Decide, DeliveryRow } from "./delivery-row";
import { Fact } from "./how-it-is-read";

type Draft = Record<keyof DeliveryFacts, string> & { name: string };

const lines: [keyof DeliveryFacts, string, string][] = [
  ["source", "Source", "where the images come from"],
  ["licence", "Licence", "CC BY 4.0"],
  ["citation", "Citation", "how to name whoever made them"],
  ["camera", "Camera position", "over the cooling racks"],
];

function draftOf(delivery: DeliveryRow): Draft {
  const facts = { ...noFacts, ...delivery.facts };
  return {
    ...facts,
    name: delivery.name,
    latitude: facts.latitude === null ? "" : String(facts.latitude),
    longitude: facts.longitude === null ? "" : String(facts.longitude),
  };
}

/** Name and facts of a delivery, editable at any time. */
function FactsDialog({
  delivery,
  onDone,
  onSaved,
}: {
  delivery: DeliveryRow;
  onDone: () => void;
  onSaved: () => void;
}) {
  const [draft, setDraft] = useState(() => draftOf(delivery));
  const [errors, setErrors] = useState<Record<string, string>>({});
  const set = (key: keyof Draft) => (event: { target: { value: string } }) =>
    setDraft({ ...draft, [key]: event.target.value });
  const save = async () => {
    const degrees = (text: string) => (text.trim() === "" ? null : Number(text.replace(",", ".")));
    const { name, ...facts } = draft;
    const parsed = deliveryFactsSchema.safeParse({
      ...facts,
      latitude: degrees(draft.latitude),
      longitude: degrees(draft.longitude),
    });
    const found: Record<string, string> = name.trim() === "" ? { name: "Give it a name." } : {};
    if (!parsed.success)
      for (const issue of parsed.error.issues)
        found[String(issue.path[0])] =
          issue.path[0] === "latitude" || issue.path[0] === "longitude"
            ? "Decimal degrees, like 47.37."
            : issue.message;
    setErrors(found);
    if (!parsed.success || Object.keys(found).length > 0) return;
    try {
      await api(`/api/deliveries/${delivery.id}`, { method: "PATCH", body: { name, facts: parsed.data } });
      onSaved();
      onDone();
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onDone()}
      title="What is known of it"
      description="It goes with the images: into the stock's filters and into every package."
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void save();
        }}
        className="grid grid-cols-2 gap-x-4 gap-y-3"
      >
        <TextField
          className="col-span-2"
          label="Name"
          value={draft.name}
          error={errors["name"]}
          onChange={set("name")}
        />
        {lines.map(([key, label, placeholder]) => (
          <TextField
            key={key}
            label={label}
            placeholder={placeholder}
            value={draft[key]}
            error={errors[key]}
            onChange={set(key)}
          />
        ))}
        <TextField
          type="date"
          label="Taken from"
          value={draft.takenFrom}
          error={errors["takenFrom"]}
          onChange={set("takenFrom")}
        />
        <TextField
          type="date"
          label="Taken to"
          value={draft.takenTo}
          error={errors["takenTo"]}
          onChange={set("takenTo")}
        />
        <TextField
          label="Latitude"
          inputMode="decimal"
          placeholder="47.37"
          value={draft.latitude}
          error={errors["latitude"]}
          onChange={set("latitude")}
        />
        <TextField
          label="Longitude"
          inputMode="decimal"
          placeholder="8.54"
          value={draft.longitude}
          error={errors["longitude"]}
          onChange={set("longitude")}
        />
        <label className="col-span-2 block">
          <span className="mb-1 block text-small font-medium text-ink-2">Notes</span>
          <textarea
            rows={3}
            value={draft.notes}
            onChange={set("notes")}
            className="w-full rounded-md border border-rule-strong bg-sheet px-2.5 py-1.5"
          />
        </label>
        <div className="col-span-2 flex justify-end gap-2">
          <Button onClick={onDone}>Cancel</Button>
          <Button look="go" type="submit">
            Save
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** Source, licence, camera, when and where: what was written down, and what the files themselves tell. */
export function Facts({
  delivery,
  keepWhenAndWhere,
  decide,
  onSaved,
}: {
  delivery: DeliveryRow;
  keepWhenAndWhere: boolean;
  decide: Decide;
  onSaved: () => void;
}) {
  const [editing, setEditing] = useState(false);
  const facts = { ...noFacts, ...delivery.facts };
  const { looked } = delivery;
  const written = [facts.takenFrom, facts.takenTo]
    .filter((value, index, both) => value !== "" && both.indexOf(value) === index)
    .join(" to ");
  const tells = looked && (looked.takenFrom !== null || looked.placed > 0);
  return (
    <section className="border-t border-rule p-5">
      <h2 className="mb-2 flex items-baseline text-[15px]">
        What is known of it
        <button
          type="button"
          className="ml-auto font-text text-base font-normal text-ink-2 underline hover:text-ink"
          onClick={() => setEditing(true)}
        >
          edit
        </button>
      </h2>
      <dl>
        <Fact label="Source">{facts.source || <span className="text-ink-3">not said</span>}</Fact>
        <Fact label="Licence">{facts.licence || <span className="text-ink-3">not said</span>}</Fact>
        {facts.citation ? <Fact label="Citation">{facts.citation}</Fact> : null}
        {facts.camera ? <Fact label="Camera">{facts.camera}</Fact> : null}
        {written ? <Fact label="Taken">{written}</Fact> : null}
        {facts.latitude !== null && facts.longitude !== null ? (
          <Fact label="Place">
            {facts.latitude}, {facts.longitude}
          </Fact>
        ) : null}
        {facts.notes ? <Fact label="Notes">{facts.notes}</Fact> : null}
      </dl>
      {tells ? (
        <div className="mt-2 text-ink-2">
          <p>
            The files tell{" "}
            {looked.takenFrom !== null
              ? `when they were taken (${dayAndTime(looked.takenFrom)} to ${dayAndTime(looked.takenTo ?? looked.takenFrom)})`
              : ""}
            {looked.takenFrom !== null && looked.placed > 0 ? " and " : ""}
            {looked.placed > 0 ? `where, for ${count(looked.placed, "image")}` : ""}.
          </p>
          <label className="mt-1 flex items-center gap-2">
            <input
              type="checkbox"
              disabled={delivery.status !== "read"}
              checked={keepWhenAndWhere}
              onChange={(event) => decide({ keepWhenAndWhere: event.target.checked })}
              className="size-4 accent-(--color-act)"
            />
            Keep it with the images
          </label>
        </div>
      ) : null}
      {editing ? <FactsDialog delivery={delivery} onDone={() => setEditing(false)} onSaved={onSaved} /> : null}
    </section>
  );
}
