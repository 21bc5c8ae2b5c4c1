"use client";
import type { Shelf } from "@larder/server/services/collections";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Choice } from "@/ui/choice";
import { Dialog } from "@/ui/dialog";
import { SelectField, TextField } from "@/ui/field";
import { count } from "@/ui/words";

const anew = "";

/** Copies a collection, or combines it with others, into a new one or into one of them. */
export function CombineDialog({
  first,
  shelves,
  onClose,
}: {
  first: Shelf;
  shelves: readonly Shelf[];
  onClose: () => void;
}) {
  const router = useRouter();
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set([first.id]));
  const [into, setInto] = useState(anew);
  const [name, setName] = useState(`${first.name} (copy)`);
  const [splits, setSplits] = useState<"keep" | "none">("keep");
  const [problem, setProblem] = useState<string | null>(null);
  const picked = shelves.filter(({ id }) => chosen.has(id));
  const sources = picked.filter(({ id }) => String(id) !== into);
  const images = sources.reduce((sum, shelf) => sum + shelf.images, 0);
  const target = into === anew ? name.trim() : (shelves.find(({ id }) => String(id) === into)?.name ?? "");
  const combine = async () => {
    try {
      const { id } = await api<{ id: number }>("/api/collections/combine", {
        method: "POST",
        body: {
          sources: sources.map((shelf) => shelf.id),
          into: into === anew ? { name } : { id: Number(into) },
          splits,
        },
      });
      router.push(`/c/${id}/deliveries`);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title="Copy or combine"
      description="Each arrives as a delivery of its own, with where it came from; the collections themselves stay as they are."
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void combine();
        }}
      >
        <fieldset>
          <legend className="mb-1 text-small font-medium text-ink-2">What is taken</legend>
          <ul className="max-h-40 overflow-y-auto border-y border-rule py-1">
            {shelves.map((shelf) => (
              <li key={shelf.id}>
                <label className="flex items-center gap-2 py-0.5">
                  <input
                    type="checkbox"
                    checked={chosen.has(shelf.id)}
                    onChange={() => {
                      const next = new Set(chosen);
                      if (!next.delete(shelf.id)) next.add(shelf.id);
                      setChosen(next);
                    }}
                    className="accent-[var(--color-act)]"
                  />
                  <span className="min-w-0 flex-1 truncate">{shelf.name}</span>
                  <span className="text-ink-3">{count(shelf.images, "image")}</span>
                </label>
              </li>
            ))}
          </ul>
        </fieldset>
        <SelectField
          label="Into"
          value={into}
          options={[
            { value: anew, label: "a new collection" },
            ...picked.map((shelf) => ({ value: String(shelf.id), label: shelf.name })),
          ]}
          onChange={setInto}
        />
        {into === anew ? (
          <TextField
            label="Its name"
            maxLength={80}
            value={name}
            error={problem ?? undefined}
            onChange={(event) => setName(event.target.value)}
          />
        ) : problem ? (
          <p className="text-harm">{problem}</p>
        ) : null}
        <Choice
          label="Splits"
          value={splits}
          options={[
            { value: "keep", label: "in the splits they have" },
            { value: "none", label: "without splits" },
          ]}
          onChange={setSplits}
        />
        <p aria-live="polite" className="text-ink-2">
          {sources.length === 0 || target === ""
            ? ""
            : `${count(images, "image")} from ${count(sources.length, "collection")} come to ${target}. How their classes match is shown before they are taken in.`}
        </p>
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go" disabled={sources.length === 0 || target === ""}>
            Bring them
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
