"use client";
import type { StockNumbers } from "@larder/core/checks/numbers/stock-numbers";
import type { PartNumbers } from "@larder/server/services/checks/numbers";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { ChevronRight } from "lucide-react";
import { useState, type ReactNode } from "react";
import { api } from "@/features/live/api";
import { usePlans } from "@/features/live/queries";
import { NumberInput } from "@/ui/number-input";
import { Loading, Trouble } from "@/ui/states";
import { Bars } from "./bars";
import { scopeParameters, type CheckScope } from "./scope";
import { DeliveryTable, HeatMaps, KeypointTable, TogetherTable } from "./class-numbers";

const usualLongEdge = 640;

/** A group of charts that stays folded until somebody wants it. */
function Group({
  title,
  isOpen,
  onToggle,
  children,
}: {
  title: string;
  isOpen: boolean;
  onToggle: () => void;
  children: ReactNode;
}) {
  return (
    <section className="border-b border-rule">
      <h3>
        <button
          type="button"
          aria-expanded={isOpen}
          onClick={onToggle}
          className="flex w-full items-center gap-2 py-3 text-left text-[15px] font-semibold hover:text-act"
        >
          <ChevronRight size={16} aria-hidden="true" className={isOpen ? "rotate-90" : ""} />
          {title}
        </button>
      </h3>
      {isOpen ? <div className="grid gap-8 pb-6 lg:grid-cols-2">{children}</div> : null}
    </section>
  );
}

const groups = ["Objects", "Classes", "Pictures", "Deliveries"] as const;

/** What is in the stock, in four folded groups of charts; they are counted once one is opened. */
export function Charts({ collection, scope }: { collection: number; scope: CheckScope }) {
  const [open, setOpen] = useState<(typeof groups)[number] | null>(null);
  const { data: plans } = usePlans(collection);
  const [chosenEdge, setChosenEdge] = useState<number | null>(null);
  // A plan is looked at as its own resize leaves the pictures.
  const resize = plans?.find(({ id }) => id === scope.plan)?.body.prepare.resize;
  const planned = resize ? (resize.mode === "longest" ? resize.width : Math.max(resize.width, resize.height)) : null;
  const longEdge = chosenEdge ?? planned ?? usualLongEdge;
  const { data, error } = useQuery({
    queryKey: ["check-numbers", collection, scope, longEdge],
    enabled: open !== null,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => {
      const asked = scopeParameters(scope);
      asked.set("longEdge", String(longEdge));
      return api<PartNumbers>(`/api/collections/${collection}/checks/numbers?${asked}`, { signal });
    },
  });
  const inside = (numbers: StockNumbers): Record<(typeof groups)[number], ReactNode> => ({
    Objects: (
      <>
        <Bars collection={collection} scope={scope} title="Objects an image" bars={numbers.objectsAnImage} />
        <Bars
          collection={collection}
          scope={scope}
          title="Sides of squares as large as the objects"
          bars={numbers.sides}
        />
        <div>
          <label className="mb-2 flex items-center gap-2 text-ink-2">
            As a trainer sees them, with a longer edge of
            <NumberInput
              value={longEdge}
              min={16}
              max={16_384}
              step={32}
              onChange={setChosenEdge}
              className="h-8 w-24"
            />
            pixels
          </label>
          <Bars collection={collection} scope={scope} title="Sides after that resize" bars={numbers.seenSides} />
        </div>
        <Bars collection={collection} scope={scope} title="Objects as shares of their picture" bars={numbers.shares} />
        <Bars collection={collection} scope={scope} title="Width by height of their boxes" bars={numbers.ratios} />
      </>
    ),
    Classes: (
      <>
        <TogetherTable collection={collection} scope={scope} together={numbers.together} />
        <HeatMaps collection={collection} scope={scope} maps={numbers.heatMaps} />
        {numbers.attributes.map(({ name, bars }) => (
          <Bars key={name} collection={collection} scope={scope} title={`Values of ${name}`} bars={bars} />
        ))}
        {numbers.keypoints.map((ofClass) => (
          <KeypointTable key={ofClass.name} keypoints={ofClass} />
        ))}
      </>
    ),
    Pictures: (
      <>
        <Bars collection={collection} scope={scope} title="Sizes of pictures" bars={numbers.imageSizes} />
        <Bars collection={collection} scope={scope} title="How they lie" bars={numbers.orientations} />
        <Bars collection={collection} scope={scope} title="Days they were shot" bars={numbers.days} />
        <Bars collection={collection} scope={scope} title="Hours they were shot" bars={numbers.hours} />
        <Bars collection={collection} scope={scope} title="Brightness, of 255" bars={numbers.brightness} />
        <Bars
          collection={collection}
          scope={scope}
          title="Contrast, as deviation of brightness"
          bars={numbers.contrast}
        />
        <Bars collection={collection} scope={scope} title="Colour cast, of 255" bars={numbers.cast} />
        <Bars
          collection={collection}
          scope={scope}
          title="Sharpness, as variance of the Laplacian"
          bars={numbers.sharpness}
        />
      </>
    ),
    Deliveries: <DeliveryTable collection={collection} scope={scope} deliveries={numbers.deliveries} />,
  });
  return (
    <section aria-label="In numbers" className="mx-5 mt-10">
      <h2 className="border-b border-rule pb-2 text-[17px]">In numbers</h2>
      {groups.map((group) => (
        <Group
          key={group}
          title={group}
          isOpen={open === group}
          onToggle={() => setOpen(open === group ? null : group)}
        >
          {error ? (
            <Trouble error={error} />
          ) : data?.numbers ? (
            inside(data.numbers)[group]
          ) : data ? (
            <p role="status" className="text-ink-2">
              There is much to count: it is done in the background, and stands here then.
            </p>
          ) : (
            <Loading what="the numbers" />
          )}
        </Group>
      ))}
    </section>
  );
}
