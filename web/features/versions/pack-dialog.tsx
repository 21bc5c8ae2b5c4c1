"use client";
import type { Finding } from "@larder/core/model/finding";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { FindingMark } from "@/ui/marks";
import { Loading, Trouble } from "@/ui/states";

/** Says what a format loses of a version, and packs it when that is understood. */
export function PackDialog({
  version,
  number,
  format,
  close,
}: {
  version: number;
  number: number;
  format: string;
  close: () => void;
}) {
  const client = useQueryClient();
  const { data: losses, error } = useQuery({
    queryKey: ["version-losses", version, format],
    queryFn: ({ signal }) => api<Finding[]>(`/api/versions/${version}/losses?format=${format}`, { signal }),
  });
  const pack = async () => {
    try {
      await api(`/api/versions/${version}/packages`, { method: "POST", body: { format } });
      close();
      await client.invalidateQueries();
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && close()}
      title={`Pack v${number} as ${format}`}
      description="What this format cannot carry is left out of the package; the version itself stays whole."
    >
      {error ? <Trouble error={error} /> : null}
      {losses || error ? null : <Loading what="what would be lost" />}
      <ul aria-label="Losses">
        {losses?.map((finding) => (
          <li key={finding.code} className="flex gap-2 border-b border-rule py-1.5 last:border-b-0">
            <FindingMark severity={finding.severity} />
            <span>{finding.sentence}</span>
          </li>
        ))}
      </ul>
      {losses?.length === 0 ? <p>It carries everything in this version.</p> : null}
      <div className="mt-5 flex justify-end gap-2">
        <Button onClick={close}>Not now</Button>
        <Button look="go" disabled={!losses} onClick={() => void pack()}>
          Pack it
        </Button>
      </div>
    </Dialog>
  );
}
