"use client";
import type { PackFormat } from "@/features/formats/option-rows";
import { useQueryClient } from "@tanstack/react-query";
import { Copy, Download, EllipsisVertical } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { FindingMark } from "@/ui/marks";
import { Menu, MenuItem, MenuRule } from "@/ui/menu";
import { bytes, dayAndTime } from "@/ui/words";
import { copyText } from "./copy-text";
import { FetchDialog } from "./fetch-dialog";
import { LinkDialog } from "./link-dialog";
import type { Pack } from "./pack";

function PackageMenu({ pack, format }: { pack: Pack; format: PackFormat | undefined }) {
  const client = useQueryClient();
  const [open, setOpen] = useState<"lines" | "link" | null>(null);
  const remove = async () => {
    try {
      await api(`/api/packages/${pack.id}`, { method: "DELETE" });
      await client.invalidateQueries();
      toast(`${pack.fileName} is deleted. The version stays, and can be packed as ${pack.format} again.`);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const ready = pack.status === "ready";
  return (
    <>
      <Menu
        trigger={
          <Button small look="quiet" aria-label={`More for the package as ${pack.format}`}>
            <EllipsisVertical size={14} aria-hidden="true" />
          </Button>
        }
      >
        {ready ? (
          <>
            <MenuItem onSelect={() => setOpen("lines")}>Lines that fetch it</MenuItem>
            <MenuItem onSelect={() => setOpen("link")}>A link that ends</MenuItem>
            <MenuRule />
          </>
        ) : null}
        <MenuItem harm onSelect={() => void remove()}>
          Delete the package
        </MenuItem>
      </Menu>
      {open === "lines" ? (
        <FetchDialog pack={pack} training={format?.training ?? ""} close={() => setOpen(null)} />
      ) : null}
      {open === "link" ? <LinkDialog pack={pack} close={() => setOpen(null)} /> : null}
    </>
  );
}

/** What an option was set to, where it is not what it is by default. */
function optionWords(options: Record<string, string>): string {
  return Object.entries(options)
    .map(([name, value]) => `${name}: ${value}`)
    .join(", ");
}

/** A package: its state, size and hash, who had it made and when, and what it could not carry. */
export function PackageRow({ pack, format }: { pack: Pack; format: PackFormat | undefined }) {
  const link = `/packages/${pack.id}/${pack.fileName}`;
  return (
    <li className="flex flex-wrap items-baseline gap-x-2.5 gap-y-1 border-b border-rule py-1.5 last:border-b-0">
      <span className="w-[104px] shrink-0 font-semibold">{pack.format}</span>
      {pack.status === "ready" ? (
        <>
          <Button small asChild>
            <a href={link} download={pack.fileName} data-testid={`download-${pack.format}`}>
              <Download size={13} aria-hidden="true" /> {bytes(pack.bytes ?? 0)}
            </a>
          </Button>
          <button
            type="button"
            title={`SHA-256 ${pack.sha256}`}
            data-testid={`sha256-${pack.format}`}
            onClick={() => void copyText(pack.sha256 ?? "", "The SHA-256")}
            className="flex items-center gap-1 font-mono text-[11.5px] text-ink-2 hover:text-ink"
          >
            <span className="sr-only">Copy the SHA-256 </span>
            {pack.sha256?.slice(0, 12)} <Copy size={11} aria-hidden="true" />
          </button>
          <span className="min-w-0 grow truncate text-small text-ink-3" title={optionWords(pack.options)}>
            <span className="text-act" title="Read again and compared: boxes, outlines, masks, keypoints, attributes">
              ✓ read back
            </span>{" "}
            · {pack.createdBy}, {dayAndTime(pack.createdAt)}
            {Object.keys(pack.options).length > 0 ? ` · ${optionWords(pack.options)}` : ""}
          </span>
          <PackageMenu pack={pack} format={format} />
          {pack.findings.length > 0 ? (
            <ul aria-label={`What ${pack.format} could not carry`} className="w-full pl-[116px]">
              {pack.findings.map((finding) => (
                <li key={finding.code} className="flex gap-1.5 text-small text-ink-3" title={finding.message}>
                  <FindingMark severity="warning" />
                  {finding.sentence}
                </li>
              ))}
            </ul>
          ) : null}
        </>
      ) : (
        <>
          <span className={`grow ${pack.status === "failed" ? "text-harm" : "text-info"}`}>
            {pack.status === "failed" ? pack.failure : "being packed"}
          </span>
          {pack.status === "failed" ? <PackageMenu pack={pack} format={format} /> : null}
        </>
      )}
    </li>
  );
}
