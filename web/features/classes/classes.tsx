"use client";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { parseAsInteger, parseAsStringLiteral, useQueryState } from "nuqs";
import { useState } from "react";
import { droppedFiles } from "@/features/deliveries/sending/dropped";
import { send } from "@/features/deliveries/sending/sendings";
import { SendingsList } from "@/features/deliveries/sending/sendings-list";
import { useClasses } from "@/features/live/queries";
import { Choice } from "@/ui/choice";
import { classFill } from "@/ui/colours";
import { NumberField } from "@/ui/field";
import { ClassMark, SplitMark } from "@/ui/marks";
import { PageHead } from "@/ui/page-head";
import { Empty, Loading, Trouble } from "@/ui/states";
import { stockLink } from "@/features/stock/link";
import { Button } from "@/ui/button";
import { count, number } from "@/ui/words";

import { ClassMenu } from "./class-menu";
import { classOrderNames, classOrders, orderedClasses } from "./order";
import { KeypointPairs } from "./keypoint-pairs";

/** A class on fewer images is marked, unless another number is asked for. */
const usualFloor = 10;

const splits = ["train", "val", "test", "none"] as const;

/** The class list: code, colour, images, objects and objects a split. */
export function Classes({ collection }: { collection: number }) {
  const { data, error, refetch } = useClasses(collection);
  const router = useRouter();
  const [over, setOver] = useState<number | null>(null);
  const [order, setOrder] = useQueryState("order", parseAsStringLiteral(classOrders).withDefault("list"));
  const [floor, setFloor] = useQueryState("floor", parseAsInteger.withDefault(usualFloor));
  const take = async (event: Event, imageClass: string) => {
    const files = await droppedFiles(event);
    if (files.length > 0)
      send({
        collection,
        files,
        imageClass,
        stocked: true,
        onArrived: (delivery) => router.push(`/c/${collection}/deliveries/${delivery}`),
      });
  };
  if (error) return <Trouble error={error} again={() => void refetch()} />;
  if (!data) return <Loading what="the classes" />;
  if (data.length === 0) {
    return (
      <Empty
        title="No classes yet"
        action={
          <Button look="go" asChild>
            <Link href={`/c/${collection}/deliveries`}>Take in a delivery</Link>
          </Button>
        }
      >
        Classes come with the first labeled delivery.
      </Empty>
    );
  }
  const most = Math.max(1, ...data.map((row) => row.objects));
  const total = data.reduce((sum, row) => sum + row.objects, 0);
  const short = data.filter((row) => row.images < floor).length;
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead
        title="Classes"
        aside={`${count(data.length, "class", "classes")} · ${count(total, "label")} · images dropped onto a class take it`}
      />
      <SendingsList collection={collection} />
      <div className="flex flex-wrap items-center gap-5 px-5 pb-2">
        <Choice
          label="Order"
          value={order}
          options={classOrders.map((value) => ({ value, label: classOrderNames[value] }))}
          onChange={(value) => void setOrder(value)}
        />
        <NumberField
          label="At least"
          name="Images a class needs at least"
          unit="images"
          value={floor}
          min={0}
          max={1_000_000}
          onChange={(value) => void setFloor(value)}
          className="[&_span]:w-auto"
        />
        <p aria-live="polite" className={short > 0 ? "text-look" : "text-ink-3"}>
          {short === 0 ? "Every class has them." : `${count(short, "class has", "classes have")} fewer.`}
        </p>
      </div>
      <div className="px-5">
        <table className="ledger">
          <thead>
            <tr>
              <th>Class</th>
              <th>Code</th>
              <th className="number">Images</th>
              <th className="number">Labels</th>
              <th className="w-[26%]">Share</th>
              {splits.map((split) => (
                <th key={split} className="number">
                  <SplitMark split={split} />
                </th>
              ))}
              <th>Keypoints</th>
              <th>
                <span className="sr-only">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {orderedClasses(data, order).map((row) => (
              <tr
                key={row.id}
                onDragOver={(event) => {
                  event.preventDefault();
                  setOver(row.id);
                }}
                onDragLeave={() => setOver(null)}
                onDrop={(event) => {
                  event.preventDefault();
                  setOver(null);
                  void take(event.nativeEvent, row.name);
                }}
                className={over === row.id ? "bg-act-wash" : ""}
              >
                <td className="max-w-[280px]">
                  <Link
                    href={stockLink(collection, { class: [row.name] })}
                    className="flex items-center gap-1.5 font-semibold hover:underline"
                  >
                    <ClassMark colour={classFill(row.colour)} />
                    <span className="truncate" title={row.name}>
                      {row.name}
                    </span>
                  </Link>
                </td>
                <td className="text-[11.5px] font-semibold tracking-wider text-ink-2">{row.code}</td>
                <td className="number">
                  {row.images < floor ? (
                    <span className="mr-2 text-small text-look">{number(floor - row.images)} missing</span>
                  ) : null}
                  {number(row.images)}
                </td>
                <td className="number font-semibold">{number(row.objects)}</td>
                <td>
                  <span className="flex items-center gap-2.5">
                    <span className="h-[10px] flex-1 bg-well">
                      <span
                        className="block h-full"
                        style={{ width: `${(row.objects / most) * 100}%`, background: classFill(row.colour) }}
                      />
                    </span>
                    <span className="w-12 text-right text-ink-2">
                      {total > 0 ? `${((row.objects / total) * 100).toFixed(1)}%` : ""}
                    </span>
                  </span>
                </td>
                {splits.map((split) => (
                  <td key={split} className={`number ${row.bySplit[split] === 0 ? "text-ink-3" : ""}`}>
                    {number(row.bySplit[split])}
                  </td>
                ))}
                <td className="text-ink-2">
                  {row.keypoints ? <KeypointPairs row={{ ...row, keypoints: row.keypoints }} /> : null}
                </td>
                <td className="number">
                  <ClassMenu row={row} rows={data} collection={collection} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </main>
  );
}
