"use client";
import type { Plan } from "@larder/core/plans/plan";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";

/** The plan as text: the same thing as the flow sheet, to read, copy or edit. */
export function YamlDialog({
  id,
  yaml,
  onDone,
  onSaved,
}: {
  id: number;
  yaml: string;
  onDone: () => void;
  onSaved: (plan: Plan) => void;
}) {
  const client = useQueryClient();
  const [text, setText] = useState(yaml);
  const [error, setError] = useState<string | null>(null);
  const save = async () => {
    try {
      const saved = await api<{ body: Plan }>(`/api/plans/${id}`, { method: "PATCH", body: { yaml: text } });
      client.setQueryData(["plan", id], saved);
      onSaved(saved.body);
      onDone();
    } catch (problem) {
      setError((problem as Error).message);
    }
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onDone()} title="The plan as YAML">
      <textarea
        aria-label="Plan as YAML"
        spellCheck={false}
        value={text}
        onChange={(event) => setText(event.target.value)}
        className="h-[46vh] w-full resize-y rounded-md border border-rule-strong bg-ground p-3 font-mono text-[12.5px] leading-[1.5]"
      />
      {error ? (
        <p role="alert" className="mt-2 text-harm">
          {error}
        </p>
      ) : null}
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onDone}>Cancel</Button>
        <Button look="go" onClick={() => void save()}>
          Save
        </Button>
      </div>
    </Dialog>
  );
}
