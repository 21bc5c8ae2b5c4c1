"use client";
import type { TableOutcome } from "@larder/server/services/ledger/table-file";
import { useEffect, useState } from "react";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { count, number } from "@/ui/words";

/** A table that was loaded: what it would write, what is wrong with it, and the button that writes what is right. */
export function TableDialog({
  collection,
  file,
  onWritten,
  onClose,
}: {
  collection: number;
  file: File;
  onWritten: (outcome: TableOutcome) => void;
  onClose: () => void;
}) {
  const [outcome, setOutcome] = useState<TableOutcome | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const load = async (write: boolean) =>
    api<TableOutcome>(`/api/collections/${collection}/ledger/file`, {
      method: "POST",
      body: { text: await file.text(), write },
    });
  useEffect(() => {
    load(false).then(setOutcome, (error: unknown) => setProblem((error as Error).message));
  }, []);
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={`The table ${file.name}`} wide>
      <div className="flex flex-col gap-3">
        {problem ? <p className="text-harm">{problem}</p> : null}
        {!outcome && !problem ? <p className="text-ink-2">Reading it …</p> : null}
        {outcome ? (
          <p>
            {count(outcome.rows, "row")}. {count(outcome.changes, "cell")} of {count(outcome.images, "image")}{" "}
            {outcome.changes === 1 ? "says" : "say"} something else than now.
          </p>
        ) : null}
        {outcome && outcome.problems.length > 0 ? (
          <>
            <p className="font-medium text-look">
              {count(outcome.troubled, "thing does", "things do")} not fit. Rows with something wrong are left out
              whole:
            </p>
            <ul className="max-h-60 overflow-y-auto border-y border-rule py-1">
              {outcome.problems.map(({ line, sentence }, n) => (
                <li key={n} className="flex gap-3 py-0.5">
                  <span className="w-16 shrink-0 text-ink-3">line {number(line)}</span>
                  <span>{sentence}</span>
                </li>
              ))}
            </ul>
          </>
        ) : null}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="go"
            disabled={busy || !outcome || outcome.changes === 0}
            onClick={() => {
              setBusy(true);
              load(true).then(onWritten, (error: unknown) => {
                setBusy(false);
                setProblem((error as Error).message);
              });
            }}
          >
            Write {count(outcome?.changes ?? 0, "cell")}
          </Button>
        </div>
      </div>
    </Dialog>
  );
}
