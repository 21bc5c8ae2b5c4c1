"use client";
import type { Facets } from "@larder/core/snapshot/facets";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import Link from "next/link";
import { useMemo } from "react";
import { api, ApiError } from "@/features/live/api";
import { useBin, useClasses } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { classColour } from "@/ui/colours";
import { Empty, Loading, Trouble } from "@/ui/states";
import { count, number } from "@/ui/words";
import { Cutouts } from "./cutouts/cutouts";
import { FilterLine } from "./filter-line/filter-line";
import type { Looks } from "./grid/cell";
import { Grid } from "./grid/grid";
import { Histograms } from "./histograms";
import { Ledger } from "./ledger/ledger";
import { ShowSwitch } from "./show-switch";
import { useSelection } from "./use-selection";
import { useShow } from "./use-show";

/** All the images a collection holds, under filters: as a grid, object by object as cut-outs, or as a ledger. */
export function Stock({ collection, formats }: { collection: number; formats: readonly string[] }) {
  const stock = useSelection();
  const { where, chosen, toggle, write, clear, active, query } = stock;
  const { show } = useShow();
  const { data: bin } = useBin(collection);
  const { data: classes } = useClasses(collection);
  const {
    data: facets,
    error,
    refetch,
  } = useQuery({
    queryKey: ["facets", collection, query],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => api<Facets>(`/api/collections/${collection}/stock/facets?${query}`, { signal }),
  });
  const looks: Looks = useMemo(
    () => new Map(classes?.map((row) => [row.id, { name: row.name, colour: classColour(row.colour) }])),
    [classes],
  );
  if (error instanceof ApiError && error.code === "selection-invalid" && !facets)
    return (
      <main className="px-5 py-4">
        <h1 className="sr-only">Stock</h1>
        <FilterLine collection={collection} where={where} onApply={write} />
        <p className="mt-2 text-harm">{error.message}</p>
      </main>
    );
  if (error && !facets) return <Trouble error={error} again={() => void refetch()} />;
  if (!facets) return <Loading what="the stock" />;
  if (facets.total === 0) {
    return (
      <Empty
        title="Nothing in stock yet"
        action={
          <Button look="go" asChild>
            <Link href={`/c/${collection}/deliveries`}>Take in a delivery</Link>
          </Button>
        }
      >
        Images come in by deliveries. Bring a zip of labeled images and look at it here.
      </Empty>
    );
  }
  const head = (
    <>
      <ShowSwitch />
      <p aria-live="polite" data-testid="matching" className="whitespace-nowrap">
        <b className="font-semibold">{number(facets.matching)}</b> of {count(facets.total, "image")} ·{" "}
        <b className="font-semibold">{number(facets.matchingObjects)}</b>{" "}
        {facets.matchingObjects === 1 ? "object" : "objects"}
      </p>
      {facets.matching > 0 ? (
        <Button small asChild>
          <Link href={`/c/${collection}/bench?${stock.address}`}>Mend on the bench</Link>
        </Button>
      ) : null}
      {bin && bin.images > 0 ? (
        <Link href={`/c/${collection}/bin`} className="text-ink-2 underline hover:text-ink">
          {number(bin.images)} in the bin
        </Link>
      ) : null}
      {where !== "" && facets.matching > 0 ? (
        <Button small asChild>
          <Link href={`/c/${collection}/checks?${new URLSearchParams({ where }).toString()}`}>Check them</Link>
        </Button>
      ) : null}
      {active > 0 ? (
        <Button small onClick={clear}>
          Clear {count(active, "filter")}
        </Button>
      ) : null}
    </>
  );
  return (
    <main className="pb-20">
      <h1 className="sr-only">Stock</h1>
      <Histograms facets={facets} chosen={chosen} toggle={toggle} />
      <div className="flex items-start gap-4 px-5 pt-2.5">
        <FilterLine collection={collection} where={where} onApply={write} />
      </div>
      {show === "grid" ? (
        <Grid
          collection={collection}
          total={facets.matching}
          looks={looks}
          classNames={facets.class.map(({ name }) => name)}
          tags={facets.tag.map(({ key }) => key)}
          stock={stock}
          head={head}
          formats={formats}
        />
      ) : show === "cutouts" ? (
        <Cutouts collection={collection} looks={looks} stock={stock} head={head} />
      ) : (
        <Ledger collection={collection} matching={facets.matching} stock={stock} head={head} />
      )}
      {facets.matching === 0 ? (
        <Empty title="No image matches" action={<Button onClick={clear}>Clear the filters</Button>}>
          Take a filter away and see what comes back.
        </Empty>
      ) : null}
    </main>
  );
}
