"use client";
import type { ClassRow } from "@larder/server/services/classes";
import type { AttributeSchema } from "@larder/core/model/attribute-schema";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { AttributeDialog } from "@/features/attributes/attribute-dialog";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";

function summaryOf(attribute: AttributeSchema): string {
  switch (attribute.kind) {
    case "choice":
      return `one of ${attribute.values.join(", ")}`;
    case "several":
      return `some of ${attribute.values.join(", ")}`;
    case "number":
      return attribute.least === undefined && attribute.most === undefined
        ? "a number"
        : `a number from ${attribute.least ?? "anything"} to ${attribute.most ?? "anything"}`;
    case "text":
      return "a text";
    case "yes-no":
      return "yes or no";
  }
}

/** What may be said of the objects of a class. */
export function AttributesDialog({
  row,
  collection,
  onClose,
}: {
  row: ClassRow;
  collection: number;
  onClose: () => void;
}) {
  const client = useQueryClient();
  const [list, setList] = useState(row.attributes);
  const [asked, setAsked] = useState<AttributeSchema | "new" | null>(null);
  const save = async (next: AttributeSchema[]) => {
    try {
      await api(`/api/classes/${row.id}/attributes`, { method: "PUT", body: next });
      setList(next);
      await client.invalidateQueries({ queryKey: ["classes", collection] });
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  if (asked !== null)
    return (
      <AttributeDialog
        former={asked === "new" ? null : asked}
        taken={list.map(({ name }) => name).filter((name) => asked === "new" || name !== asked.name)}
        onClose={() => setAsked(null)}
        onSave={(attribute) => {
          setAsked(null);
          void save(
            asked === "new"
              ? [...list, attribute]
              : list.map((one) => (one.name === asked.name ? { ...attribute, name: asked.name } : one)),
          );
        }}
      />
    );
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={`Attributes of ${row.name}`}>
      {list.length === 0 ? <p className="text-ink-2">Nothing is asked about its objects yet.</p> : null}
      <ul>
        {list.map((attribute) => (
          <li key={attribute.name} className="flex items-center gap-2 border-b border-rule py-1.5">
            <span className="min-w-0 flex-1">
              <b className="font-semibold">{attribute.name}</b>{" "}
              <span className="text-ink-2">
                {summaryOf(attribute)}
                {attribute.required ? "; has to be said" : ""}
              </span>
            </span>
            <Button small onClick={() => setAsked(attribute)}>
              Change <span className="sr-only">{attribute.name}</span>
            </Button>
            <Button small onClick={() => void save(list.filter((one) => one !== attribute))}>
              Take off <span className="sr-only">{attribute.name}</span>
            </Button>
          </li>
        ))}
      </ul>
      <div className="mt-4 flex justify-between gap-2">
        <Button onClick={() => setAsked("new")}>New attribute</Button>
        <Button look="go" onClick={onClose}>
          Done
        </Button>
      </div>
    </Dialog>
  );
}
