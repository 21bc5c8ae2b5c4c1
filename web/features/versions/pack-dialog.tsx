"use client";
import type { Finding } from "@larder/core/model/finding";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { OptionRows, type PackFormat } from "@/features/formats/option-rows";
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
  format: PackFormat;
  close: () => void;
}) {
  const client = useQueryClient();
  const { name } = format;
  const [options, setOptions] = useState<Record<string, string>>({});
  const { data: losses, error } = useQuery({
    queryKey: ["version-losses", version, name],
    queryFn: ({ signal }) => api<Finding[]>(`/api/versions/${version}/losses?format=${name}`, { signal }),
  });
  const pack = async () => {
    try {
      await api(`/api/versions/${version}/packages`, { method: "POST", body: { format: name, options } });
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
      title={`Pack v${number} as ${name}`}
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
      {format.options.length > 0 ? (
        <section aria-label="How it is written" className="mt-3 border-t border-rule pt-2">
          <OptionRows format={format} options={options} onChange={setOptions} />
        </section>
      ) : null}
      <div className="mt-5 flex justify-end gap-2">
        <Button onClick={close}>Not now</Button>
        <Button look="go" disabled={!losses} onClick={() => void pack()}>
          Pack it
        </Button>
      </div>
    </Dialog>
  );
}
