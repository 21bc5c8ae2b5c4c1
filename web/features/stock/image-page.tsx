"use client";
import { shapeBounds } from "@larder/core/geometry/shape";
import type { Shape } from "@larder/core/model/shape";
import type { ImageDetail } from "@larder/server/services/stock";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { ChevronLeft, ChevronRight } from "lucide-react";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { Fragment, useEffect, useState } from "react";
import { api } from "@/features/live/api";
import { useClasses } from "@/features/live/queries";
import { kindWords } from "@/features/shapes/kind-words";
import { Shapes } from "@/features/shapes/shapes";
import { classColour } from "@/ui/colours";
import { SplitMark } from "@/ui/marks";
import { Loading, Trouble } from "@/ui/states";
import { bytes, count, number } from "@/ui/words";
import { ImageDestinations } from "./image-destinations";
import { ImageHistory } from "./image-history";
import { movePlace } from "./grid/place";
import { useSelection } from "./use-selection";
import { useView } from "./grid/use-view";

/** The size of the box around a shape, in whole pixels. */
function sizeOf(shape: Shape): string {
  const box = shapeBounds(shape);
  return box ? `${Math.round(box.width)} × ${Math.round(box.height)}` : "";
}

const flagWords = ["crowd", "occluded", "truncated", "difficult"] as const;

/** One image large on dark ground, its objects listed in drawing order. */
export function ImagePage({ collection, id }: { collection: number; id: number }) {
  const router = useRouter();
  const { listQuery: query, address: place } = useSelection();
  const {
    viewAddress,
    tile: { filter },
  } = useView();
  const address = [place, viewAddress].filter(Boolean).join("&");
  const { data: classes } = useClasses(collection);
  const { data: image, error } = useQuery({
    queryKey: ["image", collection, id, query],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => api<ImageDetail>(`/api/collections/${collection}/stock/${id}?${query}`, { signal }),
  });
  const [chosen, setChosen] = useState<string | number | null>(null);
  useEffect(() => setChosen(null), [id]);
  const to = (other: number | null | undefined) => (other ? `/c/${collection}/stock/${other}?${address}` : null);
  const before = to(image?.before);
  const after = to(image?.after);
  const back = `/c/${collection}/stock?${address}`;
  const bench = `/c/${collection}/bench/${id}?${address}`;
  useEffect(() => {
    const step = (by: number, address: string) => {
      movePlace(collection, by);
      router.push(address);
    };
    const onKey = (event: KeyboardEvent) => {
      if (event.target instanceof HTMLInputElement) return;
      if (event.key === "ArrowLeft" && before) step(-1, before);
      if (event.key === "ArrowRight" && after) step(1, after);
      if (event.key === "Escape") router.push(back);
      if (event.key === "Enter" && !(event.target as HTMLElement).closest("a, button")) router.push(bench);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [router, collection, before, after, back, bench]);
  if (error) return <Trouble error={error} />;
  if (!image || !classes) return <Loading what="the image" />;
  const looks = new Map(classes.map((row) => [row.id, row]));
  const colourOf = (classId: number) => classColour(looks.get(classId)?.colour ?? 0);
  const arrow =
    "grid size-8 place-items-center rounded-md text-dim-ink-2 hover:bg-dim-2 hover:text-dim-ink aria-disabled:opacity-30";
  return (
    <main className="grid h-[calc(100vh-94px)] min-h-[480px] grid-cols-[1fr_312px] grid-rows-1 bg-dim text-dim-ink">
      <section className="flex min-w-0 flex-col p-4">
        <div className="mb-3 flex items-center gap-3">
          <Link href={back} className="rounded-md border border-dim-rule px-2.5 py-1 hover:bg-dim-2">
            Back to stock
          </Link>
          <h1 className="min-w-0 truncate text-[16px]" title={image.name}>
            {image.name}
          </h1>
          <Link
            href={`/c/${collection}/bench/${id}?${address}${typeof chosen === "string" ? `&object=${chosen}` : ""}`}
            className="rounded-md border border-dim-rule px-2.5 py-1 hover:bg-dim-2"
          >
            Mend its labels
          </Link>
          <span className="ml-auto text-dim-ink-2">{number(image.place)}</span>
          {before ? (
            <Link href={before} className={arrow} aria-label="Image before">
              <ChevronLeft size={18} />
            </Link>
          ) : (
            <span className={arrow} aria-disabled="true">
              <ChevronLeft size={18} />
            </span>
          )}
          {after ? (
            <Link href={after} className={arrow} aria-label="Next image">
              <ChevronRight size={18} />
            </Link>
          ) : (
            <span className={arrow} aria-disabled="true">
              <ChevronRight size={18} />
            </span>
          )}
        </div>
        <div className="grid min-h-0 flex-1 place-items-center">
          <div
            className="relative max-h-[calc(100vh-180px)] max-w-full"
            style={{
              aspectRatio: `${image.width} / ${image.height}`,
              width: `min(100%, calc((100vh - 180px) * ${image.width / image.height}))`,
            }}
          >
            <img src={`/api/images/${image.id}/picture`} alt={image.name} className="size-full" style={{ filter }} />
            <Shapes
              width={image.width}
              height={image.height}
              chosen={chosen}
              onChoose={(key) => setChosen(chosen === key ? null : key)}
              shapes={image.objects.map((object) => ({
                key: object.uid,
                shape: object.shape,
                colour: colourOf(object.classId),
              }))}
            />
          </div>
        </div>
      </section>
      <aside className="overflow-y-auto border-l border-dim-rule p-4">
        <dl className="grid grid-cols-[84px_1fr] gap-y-1 [&_dt]:text-dim-ink-2">
          <dt>Split</dt>
          <dd>
            <SplitMark split={image.split} />
          </dd>
          <dt>State</dt>
          <dd>{image.state}</dd>
          {image.tags.length > 0 ? (
            <>
              <dt>{image.tags.length === 1 ? "Tag" : "Tags"}</dt>
              <dd>{image.tags.join(", ")}</dd>
            </>
          ) : null}
          {image.imageClassIds.length > 0 ? (
            <>
              <dt>Class</dt>
              <dd>{image.imageClassIds.map((classId) => looks.get(classId)?.name).join(", ")}</dd>
            </>
          ) : null}
          <dt>Size</dt>
          <dd>
            {number(image.width)} × {number(image.height)}, {bytes(image.bytes)}
            {image.orientation > 1 ? <span className="text-dim-ink-2"> set upright</span> : null}
          </dd>
          <dt>Delivery</dt>
          <dd>
            <Link className="underline" href={`/c/${collection}/deliveries/${image.delivery.id}`}>
              {image.delivery.name}
            </Link>
          </dd>
          {[
            ["Taken", image.takenAt ?? ""],
            [
              "Place",
              image.latitude !== null && image.longitude !== null
                ? `${image.latitude.toFixed(5)}, ${image.longitude.toFixed(5)}`
                : "",
            ],
            ["Source", image.delivery.facts?.source ?? ""],
            ["Camera", image.delivery.facts?.camera ?? ""],
            ["Licence", image.delivery.facts?.licence ?? ""],
            ["Link", image.link ?? ""],
          ].map(([label, value]) =>
            value ? (
              <Fragment key={label}>
                <dt>{label}</dt>
                <dd className="truncate" title={value}>
                  {value}
                </dd>
              </Fragment>
            ) : null,
          )}
          <dt>SHA-256</dt>
          <dd className="truncate font-mono text-[11.5px]" title={image.sha256}>
            {image.sha256}
          </dd>
        </dl>
        {image.captions.length > 0 ? (
          <>
            <h2 className="mt-5 mb-1 text-[15px]">{image.captions.length === 1 ? "Caption" : "Captions"}</h2>
            {image.captions.map((caption) => (
              <p key={caption} className="mb-1 break-words">
                {caption}
              </p>
            ))}
          </>
        ) : null}
        {Object.keys(image.fields).length > 0 ? (
          <>
            <h2 className="mt-5 mb-1 text-[15px]">Fields</h2>
            <dl className="grid grid-cols-[minmax(64px,auto)_1fr] gap-x-3 gap-y-1 [&_dt]:text-dim-ink-2">
              {Object.entries(image.fields).map(([key, value]) => (
                <Fragment key={key}>
                  <dt className="break-words">{key}</dt>
                  <dd className="break-words">{[value].flat().join(", ")}</dd>
                </Fragment>
              ))}
            </dl>
          </>
        ) : null}
        <h2 className="mt-5 mb-1 text-[15px]">{count(image.objects.length, "object")}</h2>
        <ul aria-label="Objects">
          {image.objects.map((object) => (
            <li key={object.uid}>
              <button
                type="button"
                aria-pressed={chosen === object.uid}
                onClick={() => setChosen(chosen === object.uid ? null : object.uid)}
                className="flex w-full items-baseline gap-2 rounded-sm border-b border-dim-rule px-1.5 py-1.5 text-left hover:bg-dim-2 aria-pressed:bg-dim-2"
              >
                <span
                  className="size-2.5 shrink-0 rounded-[2px]"
                  style={{ background: colourOf(object.classId) }}
                  aria-hidden="true"
                />
                <span className="w-7 text-[10.5px] font-semibold tracking-wider text-dim-ink-2">
                  {looks.get(object.classId)?.code}
                </span>
                <span className="min-w-0 flex-1">
                  <span className="font-medium">{looks.get(object.classId)?.name}</span>
                  <span className="block text-[12px] text-dim-ink-2">
                    {[
                      kindWords[object.shape.kind],
                      ...Object.entries(object.attributes).map(([name, value]) => `${name} ${String(value)}`),
                      ...flagWords.filter((flag) => object[flag] === true),
                    ].join(" · ")}
                  </span>
                </span>
                <span className="text-[12px] text-dim-ink-2">{sizeOf(object.shape)}</span>
              </button>
            </li>
          ))}
        </ul>
        <ImageDestinations collection={collection} image={image.id} />
        <ImageHistory collection={collection} image={image.id} />
      </aside>
    </main>
  );
}
