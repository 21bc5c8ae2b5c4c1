"use client";
import type { PackageLink } from "@larder/server/services/package-links";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Copy } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import type { Wire } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { SelectField } from "@/ui/field";
import { Trouble } from "@/ui/states";
import { dayAndTime } from "@/ui/words";
import { copyText } from "./copy-text";
import type { Pack } from "./pack";

const spans = [
  { value: "1", label: "an hour" },
  { value: "24", label: "a day" },
  { value: "168", label: "a week" },
  { value: "720", label: "30 days" },
  { value: "8760", label: "a year" },
];

/** Makes links under which whoever has them can fetch one package for a while, and ends them. */
export function LinkDialog({ pack, close }: { pack: Pack; close: () => void }) {
  const client = useQueryClient();
  const [hours, setHours] = useState("168");
  const [made, setMade] = useState<string | null>(null);
  const key = ["package-links", pack.id];
  const { data: links, error } = useQuery({
    queryKey: key,
    queryFn: ({ signal }) => api<Wire<PackageLink>[]>(`/api/packages/${pack.id}/links`, { signal }),
  });
  const attempt = async (work: () => Promise<void>) => {
    try {
      await work();
      await client.invalidateQueries({ queryKey: key });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const make = () =>
    attempt(async () => {
      const link = await api<{ path: string }>(`/api/packages/${pack.id}/links`, {
        method: "POST",
        body: { hours: Number(hours) },
      });
      setMade(`${location.origin}${link.path}`);
    });
  const end = (id: number) => attempt(() => api(`/api/packages/${pack.id}/links/${id}`, { method: "DELETE" }));
  return (
    <Dialog
      open
      wide
      onOpenChange={(open) => !open && close()}
      title={`Links to ${pack.fileName}`}
      description="Whoever has a link can fetch this package and nothing else, until the link ends."
    >
      <div className="flex items-end gap-3">
        <SelectField label="It ends after" value={hours} options={spans} onChange={setHours} className="w-[160px]" />
        <Button look="go" onClick={() => void make()}>
          Make a link
        </Button>
      </div>
      {made ? (
        <div className="mt-3 flex items-center gap-2">
          <input
            readOnly
            aria-label="The link"
            value={made}
            onFocus={(event) => event.target.select()}
            className="h-8 min-w-0 grow rounded-md border border-rule-strong bg-ground px-2 font-mono text-[12px]"
          />
          <Button small onClick={() => void copyText(made, "The link")}>
            <Copy size={13} aria-hidden="true" /> Copy
          </Button>
        </div>
      ) : null}
      {made ? <p className="mt-1 text-small text-ink-3">It is shown this once: Larder keeps no copy of it.</p> : null}
      {error ? <Trouble error={error} /> : null}
      {links && links.length > 0 ? (
        <ul aria-label="Links made" className="mt-4 border-t border-rule">
          {links.map((link) => (
            <li key={link.id} className="flex items-center gap-3 border-b border-rule py-1.5">
              <span className={link.ended ? "text-ink-3" : ""}>
                {link.ended ? "Ended" : "Ends"} {dayAndTime(link.ends)}
              </span>
              <span className="text-ink-3">
                made by {link.by}, {dayAndTime(link.made)}
              </span>
              <Button small look="quiet" className="ml-auto" onClick={() => void end(link.id)}>
                {link.ended ? "Remove" : "End it now"}
              </Button>
            </li>
          ))}
        </ul>
      ) : null}
    </Dialog>
  );
}
