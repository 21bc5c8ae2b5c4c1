"use client";
import { ownEntry } from "@larder/core/model/own-entry";
import { allChoices } from "@larder/core/intake/choices";
import { useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useRef, useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { useClasses, useCollection, useDelivery, useSheetNumbers } from "@/features/live/queries";
import { benchLink, stockLink } from "@/features/stock/link";
import { Button } from "@/ui/button";
import { classColour } from "@/ui/colours";
import { PageHead } from "@/ui/page-head";
import { Loading, Trouble } from "@/ui/states";
import { bytes, count, duration } from "@/ui/words";
import { droppedFiles } from "./sending/dropped";
import { send } from "./sending/sendings";
import { SendingsList } from "./sending/sendings-list";
import { Arrived } from "./sheet/arrived";
import { Brought } from "./sheet/brought";
import { ClassMatch } from "./sheet/class-match";
import type { ClassLook, Decide, DeliveryRow } from "./sheet/delivery-row";
import { Facts } from "./sheet/facts";
import { FindingList } from "./sheet/finding-list";
import { HowItIsRead } from "./sheet/how-it-is-read";
import { Preview } from "./sheet/preview";
import { useShown } from "./sheet/use-shown";
import type { SheetNumbers } from "@larder/server/services/intake/sheet-numbers";
import { Working } from "./sheet/working";
import { UndoDelivery } from "./undo-delivery";

/** Files can join a delivery that was sent from a browser until it is taken in. */
function AddFiles({ delivery, onSent }: { delivery: DeliveryRow; onSent: () => void }) {
  const input = useRef<HTMLInputElement>(null);
  const take = async (event: Event) => {
    const files = await droppedFiles(event);
    if (files.length > 0)
      send({ collection: delivery.collectionId, delivery: delivery.id, files, stocked: false, onArrived: onSent });
  };
  return (
    <>
      <input
        ref={input}
        type="file"
        multiple
        className="sr-only"
        tabIndex={-1}
        aria-label="Files to add"
        onChange={(event) => void take(event.nativeEvent)}
      />
      <Button onClick={() => input.current?.click()}>Add files</Button>
    </>
  );
}

/**
 * Known classes keep their colour, also under the name they have in the delivery; new ones get the colours they will
 * have.
 */
function useClassLook(delivery: DeliveryRow | undefined, nextPosition: number | undefined): ClassLook {
  const { data: known } = useClasses(delivery?.collectionId ?? 0);
  const look = new Map(known?.map((row) => [row.name, classColour(row.colour)]));
  const decisions = allChoices(delivery?.choices).classes;
  let next = nextPosition ?? known?.length ?? 0;
  for (const { name } of delivery?.sheet?.classes ?? []) {
    const decision = ownEntry(decisions, name);
    // What is left out comes to no class, and takes no colour from those that do.
    if (decision && !("to" in decision)) continue;
    const target = decision ? decision.to : name;
    const colour = look.get(target) ?? classColour(next++);
    look.set(target, colour);
    look.set(name, colour);
  }
  return look;
}

/** Why there is nothing to take in. */
function nothingToTake(numbers: SheetNumbers | undefined): string {
  if (!numbers) return "Its images are being counted.";
  if (numbers.leftOut > 0 && numbers.leftOut + numbers.unreadable >= numbers.all)
    return "Every image is left out. Take some back to take them in.";
  if (numbers.inStock > 0)
    return "All of its images are in stock already, and what it says of them is there. Choose what becomes of their labels.";
  return "None of its files is an image that can be decoded.";
}

/** What was found in a delivery and how it will be read, before anything is stored; after that, what it brought. */
export function IntakeSheet({ collection, id }: { collection: number; id: number }) {
  const client = useQueryClient();
  const router = useRouter();
  const { data: delivery, error } = useDelivery(id);
  const { data: numbers } = useSheetNumbers(id, delivery?.status === "read" || delivery?.status === "taken");
  const { data: head } = useCollection(collection);
  const [aside, setAside] = useState(false);
  const [shown, setShown] = useShown();
  /** Choices that are on their way: what is taken in before they are there would go by what was chosen before. */
  const [undecided, setUndecided] = useState(0);
  const look = useClassLook(delivery, numbers?.nextPosition);
  if (error) return <Trouble error={error} />;
  if (!delivery) return <Loading what="the delivery" />;
  const choices = allChoices(delivery.choices);
  const busy = delivery.status === "waiting" || delivery.status === "reading" || delivery.status === "taking";
  const open = delivery.status === "read";
  const refresh = () => client.invalidateQueries();
  const act = async (path: string) => {
    try {
      const answer = await api<{ id?: number } | null>(`/api/deliveries/${id}/${path}`, { method: "POST", body: {} });
      await refresh();
      if (path === "scan-again" && answer?.id) router.push(`/c/${collection}/deliveries/${answer.id}`);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const decide: Decide = (change) => {
    // Shown at once; the server's answer settles it.
    client.setQueryData<DeliveryRow>(["delivery", id], (row) => row && { ...row, choices: { ...choices, ...change } });
    setUndecided((count) => count + 1);
    void api(`/api/deliveries/${id}`, { method: "PATCH", body: { choices: change } })
      .catch((problem: unknown) => toast.error((problem as Error).message))
      .then(refresh)
      .finally(() => setUndecided((count) => count - 1));
  };
  const images = numbers?.toTakeIn ?? delivery.sheet?.images ?? 0;
  const relabeled = numbers?.toRelabel ?? 0;
  const scannable = delivery.origin.kind === "folder" || delivery.origin.kind === "bucket";
  const findings =
    delivery.status === "taken" ? delivery.findings : (numbers?.findings ?? delivery.sheet?.findings ?? []);
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead
        title={delivery.name}
        aside={`${delivery.source}${delivery.bytes > 0 ? ` · ${bytes(delivery.bytes)}` : ""}${delivery.sheet ? ` · read in ${duration(delivery.sheet.seconds)}` : ""}`}
      >
        <Button disabled={busy} onClick={() => setAside(true)}>
          {delivery.status === "taken" ? "Undo delivery" : "Put aside"}
        </Button>
        {delivery.origin.kind === "files" && !busy && delivery.status !== "taken" ? (
          <AddFiles delivery={delivery} onSent={() => void refresh()} />
        ) : null}
        {scannable && delivery.status === "taken" ? (
          <Button onClick={() => void act("scan-again")}>Scan again</Button>
        ) : null}
        {open ? (
          <Button
            look="go"
            disabled={images + relabeled <= 0 || undecided > 0}
            {...(images + relabeled <= 0 ? { title: nothingToTake(numbers) } : {})}
            onClick={() => void act("take-in")}
          >
            {images === 0 && relabeled > 0
              ? `Label ${count(relabeled, "image")} in stock`
              : `Take in ${count(images, "image")}${relabeled > 0 ? `, label ${count(relabeled, "image")}` : ""}`}
          </Button>
        ) : null}
        {delivery.status === "taken" ? (
          <>
            <Button asChild>
              <Link href={benchLink(collection, { delivery: [delivery.name] })}>Label it on the bench</Link>
            </Button>
            <Button look="go" asChild>
              <Link href={stockLink(collection, { delivery: [delivery.name] })}>See it in stock</Link>
            </Button>
          </>
        ) : null}
      </PageHead>
      {open && images + relabeled <= 0 ? (
        <p className="mx-5 mb-4 text-look" role="status">
          {nothingToTake(numbers)}
        </p>
      ) : null}
      <SendingsList collection={collection} />
      {delivery.failure ? (
        <div
          role="alert"
          className="mx-5 mb-4 flex items-center gap-4 rounded-md border border-harm bg-harm-wash px-4 py-3"
        >
          <p>{delivery.failure}</p>
          {delivery.status === "failed" ? (
            <Button small className="ml-auto" onClick={() => void act("read-again")}>
              Read again
            </Button>
          ) : null}
        </div>
      ) : null}
      {delivery.status === "begun" || delivery.status === "arriving" ? (
        <div className="mx-5 mb-4 flex items-center gap-4 rounded-md border border-rule-strong bg-sheet px-4 py-3">
          <Arrived delivery={delivery.id} />
          <Button small className="ml-auto" onClick={() => void act("arrived")}>
            Read what is there
          </Button>
        </div>
      ) : null}
      {busy || open ? <Working delivery={delivery} /> : null}
      {delivery.sheet ? (
        <>
          <div className="grid grid-cols-[296px_1fr_296px] border-t border-rule bg-sheet [&>*]:border-r [&>*]:border-rule [&>*:last-child]:border-r-0">
            <div>
              <HowItIsRead delivery={delivery} choices={choices} numbers={numbers} decide={decide} />
              <Facts
                delivery={delivery}
                keepWhenAndWhere={choices.keepWhenAndWhere}
                decide={decide}
                onSaved={() => void refresh()}
              />
            </div>
            {delivery.status === "taken" ? (
              <Brought collection={collection} delivery={delivery} />
            ) : (
              <Preview delivery={delivery} numbers={numbers} look={look} shown={shown} onShow={setShown} />
            )}
            <FindingList delivery={delivery} findings={findings} choices={choices} decide={decide} onShow={setShown} />
          </div>
          <ClassMatch
            delivery={delivery}
            choices={choices}
            numbers={numbers}
            decide={decide}
            look={look}
            collectionName={head?.name ?? "the collection"}
          />
        </>
      ) : null}
      {aside ? <UndoDelivery delivery={delivery} onDone={() => setAside(false)} /> : null}
    </main>
  );
}
