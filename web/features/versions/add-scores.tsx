"use client";
import { mainMeasures } from "@larder/core/versions/measures";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { PickFile } from "@/ui/pick-file";

/** Asks for the scores of a model that was trained on a version: typed, or from a file that a trainer wrote. */
export function AddScores({ version, number, close }: { version: number; number: number; close: () => void }) {
  const client = useQueryClient();
  const [model, setModel] = useState("");
  const [figures, setFigures] = useState<Record<string, string>>({});
  const send = async (body: object) => {
    try {
      await api(`/api/versions/${version}/scores`, {
        method: "POST",
        body: { model: model.trim() || "model", ...body },
      });
      await client.invalidateQueries({ queryKey: ["scores"] });
      close();
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const typed = Object.entries(figures).flatMap(([measure, text]) => {
    const value = Number(text.replace(",", ".").replace(/%$/, "")) / (text.trim().endsWith("%") ? 100 : 1);
    return text.trim() === "" ? [] : [[measure, value] as const];
  });
  const wrong = typed.find(([, value]) => !Number.isFinite(value));
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && close()}
      title={`Scores of a model trained on v${number}`}
      description="Type shares such as 0.62 or 62%, or give the file that the trainer wrote: JSON, or CSV with a row a class or an epoch."
    >
      <TextField
        label="Model"
        value={model}
        placeholder="small, 640 px, 50 epochs"
        onChange={(event) => setModel(event.target.value)}
      />
      <div className="mt-3 grid grid-cols-4 gap-3">
        {mainMeasures.map((measure) => (
          <TextField
            key={measure}
            label={measure}
            inputMode="decimal"
            value={figures[measure] ?? ""}
            onChange={(event) => setFigures({ ...figures, [measure]: event.target.value })}
          />
        ))}
      </div>
      {wrong ? <p className="mt-2 text-harm">{wrong[0]} is no number.</p> : null}
      <div className="mt-5 flex items-center gap-2">
        <PickFile
          label="File of scores"
          accept=".json,.csv,.tsv,.txt"
          onPick={(file) => void file.text().then((text) => send({ text }))}
        >
          From a file
        </PickFile>
        <span className="grow" />
        <Button onClick={close}>Cancel</Button>
        <Button
          look="go"
          disabled={typed.length === 0 || wrong !== undefined}
          onClick={() => void send({ scores: { overall: Object.fromEntries(typed), byClass: {} } })}
        >
          Add
        </Button>
      </div>
    </Dialog>
  );
}
