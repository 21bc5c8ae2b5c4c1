"use client";
import { fetchLines, type FetchKind } from "@larder/core/versions/fetch-lines";
import { Copy } from "lucide-react";
import { useState } from "react";
import { Button } from "@/ui/button";
import { Choice } from "@/ui/choice";
import { Dialog } from "@/ui/dialog";
import { copyText } from "./copy-text";
import type { Pack } from "./pack";

const kinds: { value: FetchKind; label: string }[] = [
  { value: "shell", label: "Shell" },
  { value: "python", label: "Python" },
  { value: "notebook", label: "Notebook" },
];

/** Lines that fetch a package, check it and unpack it, and where a trainer is to look then. */
export function FetchDialog({ pack, training, close }: { pack: Pack; training: string; close: () => void }) {
  const [kind, setKind] = useState<FetchKind>("shell");
  const text = fetchLines({
    address: `${location.origin}/packages/${pack.id}/${pack.fileName}`,
    fileName: pack.fileName,
    folder: pack.fileName.replace(/\.zip$/, ""),
    sha256: pack.sha256 ?? "",
  })[kind];
  return (
    <Dialog
      open
      wide
      onOpenChange={(open) => !open && close()}
      title={`Fetch ${pack.fileName}`}
      description="It is fetched, its SHA-256 compared, and unpacked beside. Python needs nothing but its own library."
    >
      <div className="flex items-center justify-between">
        <Choice label="For" value={kind} options={kinds} onChange={setKind} />
        <Button small onClick={() => void copyText(text, "The text")}>
          <Copy size={13} aria-hidden="true" /> Copy
        </Button>
      </div>
      <pre
        tabIndex={0}
        aria-label="Lines to run"
        className="mt-3 max-h-[40vh] overflow-auto rounded-md border border-rule bg-ground p-3 font-mono text-[12px] leading-[1.55] whitespace-pre-wrap"
      >
        {text}
      </pre>
      {training ? (
        <p className="mt-3">
          <b className="font-semibold">Then train:</b> {training}
        </p>
      ) : null}
      <p className="mt-1 text-ink-2">
        <code className="font-mono text-[12px]">python3 check.py</code> in the package counts its pictures and opens a
        sample.
      </p>
    </Dialog>
  );
}
