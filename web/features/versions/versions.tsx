"use client";
import type { PackFormat } from "@/features/formats/option-rows";
import { useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { useExports, useVersions } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { PageHead } from "@/ui/page-head";
import { Empty, Loading, Trouble } from "@/ui/states";
import { count } from "@/ui/words";
import { PackedSelections } from "./packed-selections";
import { ScoresOverVersions } from "./scores-over-versions";
import { VersionEntry } from "./version-entry";

/** Makes a version of the stock as it is, without a plan. */
function FreezeStock({ collection }: { collection: number }) {
  const client = useQueryClient();
  const freeze = async () => {
    try {
      await api(`/api/collections/${collection}/versions`, { method: "POST", body: {} });
      await client.invalidateQueries({ queryKey: ["versions", collection] });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <Button title="Every image as it is, in the split it has; those without one in train" onClick={() => void freeze()}>
      Freeze the stock
    </Button>
  );
}

/** The frozen data sets, newest first, each with its packages. */
export function Versions({ collection, formats }: { collection: number; formats: readonly PackFormat[] }) {
  const { data, error, refetch } = useVersions(collection);
  const { data: exports } = useExports(collection);
  const [limit, setLimit] = useState(50);
  const [chosen, setChosen] = useState<readonly number[]>([]);
  if (error) return <Trouble error={error} again={() => void refetch()} />;
  if (!data) return <Loading what="the versions" />;
  if (data.length === 0 && exports?.length === 0) {
    return (
      <Empty
        title="Nothing built yet"
        action={
          <>
            <Button look="go" asChild>
              <Link href={`/c/${collection}/plans`}>To the plans</Link>
            </Button>
            <FreezeStock collection={collection} />
          </>
        }
      >
        Build a plan, and its data set is frozen here under a number and a digest, ready to download. Or freeze the
        stock as it stands.
      </Empty>
    );
  }
  const frozen = data.filter((row) => row.number !== null);
  const [first, second] = [...chosen].sort((a, b) => a - b);
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead title="Versions" aside={count(frozen.length, "version")}>
        {frozen.length > 1 ? (
          <Button asChild>
            <Link
              href={`/c/${collection}/versions/compare${chosen.length === 2 ? `?first=${first}&second=${second}` : ""}`}
            >
              {chosen.length === 2 ? `Compare v${first} with v${second}` : "Compare two"}
            </Link>
          </Button>
        ) : null}
        <FreezeStock collection={collection} />
      </PageHead>
      <ul className="border-t border-rule px-5">
        {data.slice(0, limit).map((row) => (
          <VersionEntry
            key={row.id}
            row={row}
            formats={formats}
            chosen={row.number !== null && chosen.includes(row.number)}
            onChoose={(on) =>
              // The newest two that were ticked are compared.
              setChosen((known) =>
                on ? [...known, row.number as number].slice(-2) : known.filter((other) => other !== row.number),
              )
            }
            before={row.number ? frozen.find((other) => other.number === (row.number as number) - 1) : undefined}
          />
        ))}
      </ul>
      {data.length > limit ? (
        <div className="p-5">
          <Button onClick={() => setLimit(limit + 50)}>Show older ones</Button>
        </div>
      ) : null}
      <ScoresOverVersions collection={collection} />
      {exports && exports.length > 0 ? <PackedSelections rows={exports} formats={formats} /> : null}
    </main>
  );
}
