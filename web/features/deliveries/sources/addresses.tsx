"use client";
import { readAddressList } from "@larder/core/intake/address-list";
import { useId, useState } from "react";
import { Button } from "@/ui/button";
import { Choice } from "@/ui/choice";
import { DialogCancel } from "@/ui/dialog";
import { PickFile } from "@/ui/pick-file";
import { count } from "@/ui/words";
import type { Begin } from "./begin";

function understood(list: string): string {
  if (list.trim() === "") return "";
  try {
    const { addresses, problems } = readAddressList(list);
    return `${count(addresses.length, "address", "addresses")}${problems.length > 0 ? `; no address in ${problems.slice(0, 3).join(", ")}` : ""}`;
  } catch {
    return "This is neither a list of addresses nor a CSV.";
  }
}

/** A list of web addresses, typed or from a file; kept as links or copied. */
export function Addresses({ begin, busy }: { begin: Begin; busy: boolean }) {
  const id = useId();
  const [list, setList] = useState("");
  const [fileName, setFileName] = useState("addresses");
  const [keep, setKeep] = useState<"copy" | "link">("copy");
  return (
    <>
      <label htmlFor={id} className="mb-1 block text-small font-medium text-ink-2">
        Addresses
      </label>
      <textarea
        id={id}
        value={list}
        onChange={(event) => setList(event.target.value)}
        spellCheck={false}
        rows={7}
        className="w-full rounded-md border border-rule-strong bg-sheet px-2.5 py-2 font-mono text-small"
        placeholder="https://pictures.example.org/tray-1.jpg"
      />
      <div className="mt-1 flex items-center gap-3">
        <span className="text-small text-ink-3" aria-live="polite">
          {understood(list)}
        </span>
        <PickFile
          label="File with addresses"
          accept=".txt,.csv,.tsv"
          onPick={(file) => {
            setFileName(file.name);
            void file.text().then(setList);
          }}
        >
          From a file
        </PickFile>
      </div>
      <div className="mt-4 flex items-center gap-3">
        <Choice
          label="How the pictures are kept"
          value={keep}
          onChange={setKeep}
          options={[
            { value: "copy", label: "Copy the pictures" },
            { value: "link", label: "Keep them as links" },
          ]}
        />
        <span className="text-small text-ink-3">
          {keep === "copy"
            ? "They stay when the address is gone."
            : "Only thumbnails are kept; each is fetched when it is needed."}
        </span>
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <DialogCancel />
        <Button
          look="go"
          disabled={busy || list.trim() === ""}
          onClick={() => void begin({ kind: "addresses", list, fileName, keep })}
        >
          Read these addresses
        </Button>
      </div>
    </>
  );
}
