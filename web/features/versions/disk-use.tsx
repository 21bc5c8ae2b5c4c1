"use client";
import type { VersionDisk } from "@larder/server/services/version-page";
import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { openJob, progressWords } from "@/features/live/open-job";
import { useJobs } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { bytes, count } from "@/ui/words";

/** What a version takes on disk; the pictures it made can be dropped, and made again. */
export function DiskUse({ disk, version }: { disk: VersionDisk; version: number }) {
  const client = useQueryClient();
  const { data: jobs } = useJobs();
  const job = openJob(jobs, ["build-version"], version);
  const ask = async (method: "POST" | "DELETE") => {
    try {
      await api(`/api/versions/${version}/renderings`, { method });
      await client.invalidateQueries({ queryKey: ["version"] });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const { originals, renderings, packages, dropped } = disk;
  return (
    <section aria-label="On disk">
      <h2 className="pb-2 text-[17px]">On disk</h2>
      <table className="ledger">
        <tbody>
          <tr>
            <td>Pictures it made</td>
            <td className="number">{dropped ? "dropped" : bytes(renderings.bytes)}</td>
            <td className="text-ink-3">
              {dropped
                ? "made again when a package needs them"
                : `${count(renderings.files, "file")}${renderings.shared > 0 ? `, ${bytes(renderings.shared)} shared with other versions` : ""}`}
            </td>
          </tr>
          <tr>
            <td>Packages</td>
            <td className="number">{bytes(packages.bytes)}</td>
            <td className="text-ink-3">{count(packages.files, "file")}</td>
          </tr>
          <tr>
            <td>Originals it needs</td>
            <td className="number">{bytes(originals.bytes)}</td>
            <td className="text-ink-3">{count(originals.files, "file")}, kept once for the stock and all versions</td>
          </tr>
        </tbody>
      </table>
      <div className="mt-2 flex items-center gap-3">
        {job ? (
          <span className="text-info">{progressWords(job)}</span>
        ) : dropped ? (
          <Button small onClick={() => void ask("POST")}>
            Make its pictures again
          </Button>
        ) : renderings.files > 0 ? (
          <Button
            small
            title="Its digest and packages stay; the pictures can be made again, the same to the byte"
            onClick={() => void ask("DELETE")}
          >
            Drop its pictures
          </Button>
        ) : null}
      </div>
    </section>
  );
}
