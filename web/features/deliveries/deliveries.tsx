"use client";
import type { Delivery } from "@larder/server/db/schema";
import Link from "next/link";
import { useState } from "react";
import { useDeliveries, type Wire } from "@/features/live/queries";
import { actorName } from "@/features/history/names";
import { PageHead } from "@/ui/page-head";
import { Loading, Trouble } from "@/ui/states";
import { bytes, count, dayAndTime, number } from "@/ui/words";
import { Button } from "@/ui/button";
import { Arrivals } from "./arrivals";
import { UndoDelivery } from "./undo-delivery";

type Row = Wire<Delivery>;

const statusWords: Record<Row["status"], string> = {
  begun: "on its way",
  arriving: "on its way",
  waiting: "waiting to be read",
  reading: "being read",
  read: "ready to take in",
  taking: "being taken in",
  taken: "taken in",
  undoing: "being undone",
  undone: "undone",
  failed: "could not be read",
};

function StatusCell({ row }: { row: Row }) {
  const look =
    row.status === "failed"
      ? "text-harm"
      : row.status === "read"
        ? "font-semibold text-look"
        : row.status === "taken"
          ? ""
          : row.status === "undone"
            ? "text-ink-3"
            : "text-info";
  return (
    <span className={look}>
      {statusWords[row.status]}
      {row.undoneBy ? ` by ${actorName(row.undoneBy)}` : ""}
    </span>
  );
}

const undoLabel = (row: Row) => (row.status === "taken" ? `Undo ${row.name}` : `Put ${row.name} aside`);

/** The goods-received book: a row a delivery, newest first. */
export function Deliveries({ collection }: { collection: number }) {
  const { data, error, refetch } = useDeliveries(collection);
  const [undoing, setUndoing] = useState<Row | null>(null);
  const findingCount = (row: Row) =>
    (row.status === "taken" ? row.findings : (row.sheet?.findings ?? [])).filter(
      (finding) => finding.severity !== "info",
    ).length;
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead
        title="Deliveries"
        aside={data && data.length > 0 ? `${count(data.length, "delivery", "deliveries")} so far` : undefined}
      />
      <Arrivals collection={collection} />
      {error ? <Trouble error={error} again={() => void refetch()} /> : null}
      {!data && !error ? <Loading what="the deliveries" /> : null}
      {data && data.length > 0 ? (
        <div className="px-5 pt-5">
          <table className="ledger">
            <thead>
              <tr>
                <th>Delivery</th>
                <th>From</th>
                <th>Format</th>
                <th className="number">Images</th>
                <th className="number">Objects</th>
                <th className="number">To look at</th>
                <th>State</th>
                <th>When</th>
                <th>
                  <span className="sr-only">Actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {data.map((row) => (
                <tr key={row.id}>
                  <td className="font-semibold">
                    <Link href={`/c/${collection}/deliveries/${row.id}`} className="hover:underline">
                      {row.name}
                    </Link>
                  </td>
                  <td className="text-ink-2">
                    <span className="font-mono text-small">{row.source}</span>{" "}
                    {row.bytes > 0 ? <span className="text-ink-3">{bytes(row.bytes)}</span> : null}
                  </td>
                  <td>{row.sheet?.format ?? ""}</td>
                  <td className="number">
                    {row.taken ? number(row.taken.images) : row.sheet ? number(row.sheet.images) : ""}
                  </td>
                  <td className="number">
                    {row.taken ? number(row.taken.objects) : row.sheet ? number(row.sheet.objects) : ""}
                  </td>
                  <td className="number">{findingCount(row) || ""}</td>
                  <td>
                    <StatusCell row={row} />
                  </td>
                  <td className="text-ink-3">{dayAndTime(row.undoneAt ?? row.takenAt ?? row.createdAt)}</td>
                  <td className="number">
                    {row.status === "undone" || row.status === "undoing" ? null : (
                      <Button small look="quiet" aria-label={undoLabel(row)} onClick={() => setUndoing(row)}>
                        {row.status === "taken" ? "Undo" : "Put aside"}
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : null}
      {undoing ? <UndoDelivery delivery={undoing} onDone={() => setUndoing(null)} /> : null}
    </main>
  );
}
