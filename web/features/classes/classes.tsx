"use client";
import type { ClassListKind } from "@larder/core/relabel/class-list-file";
import type { ClassRow } from "@larder/server/services/classes";
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  pointerWithin,
  PointerSensor,
  useSensor,
  useSensors,
  type CollisionDetection,
  type DragEndEvent,
  type UniqueIdentifier,
} from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { parseAsInteger, parseAsStringLiteral, useQueryState } from "nuqs";
import { useState } from "react";
import { toast } from "sonner";
import { droppedFiles } from "@/features/deliveries/sending/dropped";
import { send } from "@/features/deliveries/sending/sendings";
import { SendingsList } from "@/features/deliveries/sending/sendings-list";
import { api } from "@/features/live/api";
import { useClasses } from "@/features/live/queries";
import { Choice } from "@/ui/choice";
import { NumberField } from "@/ui/field";
import { SplitMark } from "@/ui/marks";
import { Menu, MenuItem } from "@/ui/menu";
import { dragWords } from "@/ui/drag-words";
import { PageHead } from "@/ui/page-head";
import { PickFile } from "@/ui/pick-file";
import { Empty, Loading, Trouble } from "@/ui/states";
import { Button } from "@/ui/button";
import { count, number } from "@/ui/words";

import { ClassTableRow, mergeId, splits } from "./class-row";
import { MergeDialog } from "./merge-dialog";
import { classOrderNames, classOrders, orderedClasses } from "./order";

/** A class on fewer images is marked, unless another number is asked for. */
const usualFloor = 10;

/** What lies under the pointer; moved by keys, what is nearest. */
const underneath: CollisionDetection = (moving) =>
  moving.pointerCoordinates ? pointerWithin(moving) : closestCenter(moving);

const listKinds: Record<ClassListKind, string> = {
  txt: "Names alone, one a line (txt)",
  csv: "Names, codes, colours, parents (csv)",
  json: "With everything (json)",
};

/** The class list: what there is of each class, its place in the list, and what can be done to it. */
export function Classes({ collection }: { collection: number }) {
  const { data, error, refetch } = useClasses(collection);
  const router = useRouter();
  const client = useQueryClient();
  const [merging, setMerging] = useState<{ row: ClassRow; into: number } | null>(null);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
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
  const rows = orderedClasses(data, order);
  const load = async (file: File) => {
    try {
      const { added, names } = await api<{ added: number; names: string[] }>(`/api/collections/${collection}/classes`, {
        method: "POST",
        body: { text: await file.text(), fileName: file.name },
      });
      toast(`${count(names.filter(Boolean).length, "class", "classes")} read, ${number(added)} of them new.`);
      await client.invalidateQueries({ queryKey: ["classes", collection] });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  /** Moved by its grip a class takes another place; dropped by its name onto another it is merged into that one. */
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over) return;
    const into = Number(over.id);
    const row = data.find(({ id }) => mergeId(id) === active.id);
    if (row) {
      if (row.id !== into) setMerging({ row, into });
      return;
    }
    if (active.id === over.id) return;
    const ids = rows.map(({ id }) => id);
    const next = arrayMove(ids, ids.indexOf(Number(active.id)), ids.indexOf(into));
    client.setQueryData<ClassRow[]>(
      ["classes", collection],
      next.flatMap((id) => data.filter((one) => one.id === id)),
    );
    api(`/api/collections/${collection}/classes/order`, { method: "PUT", body: { classes: next } }).catch(
      (problem: unknown) => {
        toast.error((problem as Error).message);
        void client.invalidateQueries({ queryKey: ["classes", collection] });
      },
    );
  };
  const nameOf = (dragged: UniqueIdentifier) =>
    data.find(({ id }) => id === dragged || mergeId(id) === dragged)?.name ?? "a class";
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
        <span className="ml-auto flex gap-2">
          <PickFile
            label="A class list to load"
            accept=".txt,.csv,.tsv,.json,.names"
            onPick={(file) => void load(file)}
          >
            Load a list
          </PickFile>
          <Menu trigger={<Button small>Save the list</Button>}>
            {(["txt", "csv", "json"] as const).map((as) => (
              <MenuItem key={as} asChild>
                <a href={`/api/collections/${collection}/classes/file?as=${as}`} download>
                  {listKinds[as]}
                </a>
              </MenuItem>
            ))}
          </Menu>
        </span>
      </div>
      <div className="px-5">
        <DndContext
          id="classes"
          sensors={sensors}
          collisionDetection={underneath}
          onDragEnd={onDragEnd}
          accessibility={{ announcements: dragWords(nameOf) }}
        >
          <SortableContext items={rows.map(({ id }) => id)} strategy={verticalListSortingStrategy}>
            <table className="ledger">
              <thead>
                <tr>
                  <th>
                    <span className="sr-only">Place</span>
                  </th>
                  <th>Class</th>
                  <th>Code</th>
                  <th>Examples</th>
                  <th className="number">Images</th>
                  <th className="number">Labels</th>
                  <th className="w-[16%]">Share</th>
                  {splits.map((split) => (
                    <th key={split} className="number">
                      <SplitMark split={split} />
                    </th>
                  ))}
                  <th className="number">Deliveries</th>
                  <th>Says more</th>
                  <th>
                    <span className="sr-only">Actions</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {rows.map((row) => (
                  <ClassTableRow
                    key={row.id}
                    row={row}
                    rows={data}
                    collection={collection}
                    floor={floor}
                    share={{ ofMost: row.objects / most, ofAll: total > 0 ? row.objects / total : 0 }}
                    movable={order === "list"}
                    onFiles={(event) => void take(event, row.name)}
                  />
                ))}
              </tbody>
            </table>
          </SortableContext>
        </DndContext>
      </div>
      {merging ? (
        <MergeDialog
          row={merging.row}
          rows={data}
          chosen={merging.into}
          collection={collection}
          onClose={() => setMerging(null)}
        />
      ) : null}
    </main>
  );
}
