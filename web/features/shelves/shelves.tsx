"use client";
import type { Shelf } from "@larder/server/services/collections";
import { useQueryClient } from "@tanstack/react-query";
import { MoreHorizontal } from "lucide-react";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { useShelves } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { bandColour, classColour } from "@/ui/colours";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { Menu, MenuItem } from "@/ui/menu";
import { CombineDialog } from "./combine-dialog";
import { DescribeDialog } from "./describe-dialog";
import { Empty, Loading, Trouble } from "@/ui/states";
import { bytes, count, day, number } from "@/ui/words";

/** The board a shelf's pictures stand on: class balance, thickest first. */
function BalanceBoard({ classes }: { classes: Shelf["classes"] }) {
  const total = classes.reduce((sum, entry) => sum + entry.count, 0);
  const words = classes.map((entry) => `${entry.name} ${number(entry.count)}`).join(", ");
  return (
    <div
      role="img"
      aria-label={total > 0 ? `Class balance: ${words}` : "No labels yet"}
      className="flex h-[11px] w-full gap-px border-t-2 border-ink bg-well"
    >
      {total > 0
        ? classes
            .filter((entry) => entry.count > 0)
            .map((entry) => (
              <span
                key={entry.name}
                title={`${entry.name}: ${number(entry.count)}`}
                style={{ flexGrow: entry.count, background: classColour(entry.colour) }}
                className="min-w-[2px]"
              />
            ))
        : null}
    </div>
  );
}

function ShelfRow({
  shelf,
  onRename,
  onDelete,
  onDescribe,
  onCombine,
  onArchive,
}: {
  shelf: Shelf;
  onRename: () => void;
  onDelete: () => void;
  onDescribe: () => void;
  onCombine: () => void;
  onArchive: () => void;
}) {
  const stock = `/c/${shelf.id}/stock`;
  const empty = shelf.images === 0;
  return (
    <li>
      <div className="grid grid-cols-[236px_1fr_196px] items-end">
        <div className="self-start pr-4 pb-2">
          <div className="flex items-center gap-2">
            <span
              className="h-[18px] w-[9px] shrink-0 rounded-[2px]"
              style={{ background: bandColour(shelf.band) }}
              aria-hidden="true"
            />
            <Link
              href={empty ? `/c/${shelf.id}/deliveries` : stock}
              className="min-w-0 truncate font-title text-[18px] font-semibold tracking-[-0.01em] hover:underline"
              title={shelf.name}
            >
              {shelf.name}
            </Link>
            <Menu
              align="start"
              trigger={
                <button
                  type="button"
                  aria-label={`More for ${shelf.name}`}
                  className="grid size-6 shrink-0 place-items-center rounded-sm text-ink-3 hover:bg-well hover:text-ink"
                >
                  <MoreHorizontal size={15} aria-hidden="true" />
                </button>
              }
            >
              <MenuItem onSelect={onRename}>Rename</MenuItem>
              <MenuItem onSelect={onDescribe}>Describe</MenuItem>
              <MenuItem onSelect={onCombine}>Copy or combine</MenuItem>
              <MenuItem onSelect={onArchive}>{shelf.archived ? "Take out again" : "Put away"}</MenuItem>
              <MenuItem harm onSelect={onDelete}>
                Delete …
              </MenuItem>
            </Menu>
          </div>
          <dl className="mt-1.5 grid w-fit grid-cols-[auto_auto] gap-x-2.5 pl-[17px] text-ink-2">
            {(
              [
                [shelf.images, "image"],
                shelf.objects === 0 && shelf.classes.length > 0
                  ? [shelf.classes.reduce((sum, entry) => sum + entry.count, 0), "label"]
                  : [shelf.objects, "object"],
                [shelf.classes.length, "class"],
              ] as [number, string][]
            ).map(([value, word]) => (
              <div key={word} className="contents">
                <dd className="text-right font-semibold text-ink">{number(value)}</dd>
                <dt>{value === 1 ? word : word === "class" ? "classes" : `${word}s`}</dt>
              </div>
            ))}
          </dl>
        </div>
        {empty ? (
          <div className="flex h-[112px] items-center gap-3 text-ink-3">
            <span>Nothing stands here yet.</span>
            <Button small asChild>
              <Link href={`/c/${shelf.id}/deliveries`}>Take in a delivery</Link>
            </Button>
          </div>
        ) : (
          <Link
            href={stock}
            tabIndex={-1}
            aria-hidden="true"
            className="flex h-[112px] flex-wrap gap-1.5 overflow-hidden"
          >
            {shelf.pictures.map((picture) => (
              <img
                key={picture.id}
                src={`/api/images/${picture.id}/thumbnail`}
                alt=""
                loading="lazy"
                width={Math.round((112 * picture.width) / picture.height)}
                height={112}
                className="h-[112px] rounded-t-[3px] bg-well object-cover"
                style={{ width: Math.min(200, Math.max(84, (112 * picture.width) / picture.height)) }}
              />
            ))}
          </Link>
        )}
        <div className="h-full self-stretch border-l border-rule pl-4">
          {shelf.lastVersion ? (
            <>
              <p className="truncate" title={shelf.lastVersion.name}>
                <b className="font-title text-[15px] font-semibold">v{shelf.lastVersion.number}</b>{" "}
                {shelf.lastVersion.name}
              </p>
              <p className="text-ink-3">
                {day(shelf.lastVersion.frozenAt)} · {shelf.lastVersion.shares}
              </p>
              <p className="mt-2 flex gap-1.5">
                <Button small asChild>
                  <Link href={`/c/${shelf.id}/versions`}>Download</Link>
                </Button>
                <Button small asChild>
                  <Link href={`/c/${shelf.id}/plans`}>Plan next</Link>
                </Button>
              </p>
            </>
          ) : (
            <>
              <p className="text-ink-3">Nothing built yet</p>
              {empty ? null : (
                <p className="mt-2">
                  <Button small asChild>
                    <Link href={`/c/${shelf.id}/plans`}>Start a plan</Link>
                  </Button>
                </p>
              )}
            </>
          )}
        </div>
      </div>
      <BalanceBoard classes={shelf.classes} />
    </li>
  );
}

type Question = { kind: "new" } | { kind: "rename" | "delete"; shelf: Shelf } | null;

function NameDialog({ question, onDone }: { question: Exclude<Question, null>; onDone: () => void }) {
  const client = useQueryClient();
  const router = useRouter();
  const [text, setText] = useState(question.kind === "rename" ? question.shelf.name : "");
  const [error, setError] = useState<string>();
  const [busy, setBusy] = useState(false);
  const words = {
    new: { title: "New collection", label: "Name", act: "Make collection" },
    rename: { title: "Rename collection", label: "Name", act: "Rename" },
    delete: {
      title: question.kind === "new" ? "" : `Delete ${question.shelf.name}`,
      label: "Type the collection's name",
      act: "Delete for good",
    },
  }[question.kind];
  const submit = async () => {
    setBusy(true);
    setError(undefined);
    try {
      if (question.kind === "new") {
        const { id } = await api<{ id: number }>("/api/collections", { method: "POST", body: { name: text } });
        router.push(`/c/${id}/deliveries`);
      } else if (question.kind === "rename")
        await api(`/api/collections/${question.shelf.id}`, { method: "PATCH", body: { name: text } });
      else {
        await api(`/api/collections/${question.shelf.id}`, { method: "DELETE", body: { typedName: text } });
        toast(`${question.shelf.name} is deleted.`);
      }
      await client.invalidateQueries();
      onDone();
    } catch (problem) {
      setError((problem as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const description =
    question.kind === "delete"
      ? `Its ${count(question.shelf.images, "image")}, plans and versions go with it. This cannot be undone.`
      : question.kind === "new"
        ? "A body of images and their labels, with one list of classes."
        : undefined;
  return (
    <Dialog open onOpenChange={(open) => !open && onDone()} title={words.title} description={description}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <TextField
          label={words.label}
          value={text}
          onChange={(event) => setText(event.target.value)}
          error={error}
          autoFocus
          autoComplete="off"
        />
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={onDone}>Cancel</Button>
          <Button
            type="submit"
            look={question.kind === "delete" ? "harm" : "go"}
            disabled={busy || text.trim() === "" || (question.kind === "delete" && text.trim() !== question.shelf.name)}
          >
            {words.act}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** Home: every collection as a shelf with its pictures standing on its class balance. */
export function Shelves() {
  const { data, error, refetch } = useShelves();
  const client = useQueryClient();
  const [question, setQuestion] = useState<Question>(null);
  const [asked, setAsked] = useState<{ kind: "describe" | "combine"; shelf: Shelf } | null>(null);
  const archive = async (shelf: Shelf) => {
    try {
      await api(`/api/collections/${shelf.id}`, { method: "PATCH", body: { archived: !shelf.archived } });
      await client.invalidateQueries({ queryKey: ["shelves"] });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const standing = data?.filter((shelf) => !shelf.archived) ?? [];
  const away = data?.filter((shelf) => shelf.archived) ?? [];
  const row = (shelf: Shelf) => (
    <ShelfRow
      key={shelf.id}
      shelf={shelf}
      onRename={() => setQuestion({ kind: "rename", shelf })}
      onDelete={() => setQuestion({ kind: "delete", shelf })}
      onDescribe={() => setAsked({ kind: "describe", shelf })}
      onCombine={() => setAsked({ kind: "combine", shelf })}
      onArchive={() => void archive(shelf)}
    />
  );
  const images = data?.reduce((sum, shelf) => sum + shelf.images, 0) ?? 0;
  const size = data?.reduce((sum, shelf) => sum + shelf.bytes, 0) ?? 0;
  return (
    <main className="mx-auto max-w-[1640px] px-7 pb-16">
      <div className="flex items-baseline gap-3.5 pt-7 pb-6">
        <h1 className="text-[27px] leading-none">Shelves</h1>
        {data && data.length > 0 ? (
          <span className="text-ink-3">
            {count(data.length, "collection")} · {count(images, "image")} · {bytes(size)}
          </span>
        ) : null}
        <Button look="go" className="ml-auto" onClick={() => setQuestion({ kind: "new" })}>
          New collection
        </Button>
      </div>
      {error ? <Trouble error={error} again={() => void refetch()} /> : null}
      {!data && !error ? <Loading what="the shelves" /> : null}
      {data?.length === 0 ? (
        <Empty
          title="The shelves are bare"
          action={
            <Button look="go" onClick={() => setQuestion({ kind: "new" })}>
              Make the first collection
            </Button>
          }
        >
          Make a collection, then bring it a zip of labeled images. To look around first, load the demo bakery:{" "}
          <code className="font-mono text-small">LARDER_DEMO_SHARE=1 ./larder up</code>
        </Empty>
      ) : null}
      <ul className="flex flex-col gap-7">{standing.map(row)}</ul>
      {away.length > 0 ? (
        <details className="mt-9">
          <summary className="cursor-pointer text-ink-2">{count(away.length, "collection")} put away</summary>
          <ul className="mt-5 flex flex-col gap-7">{away.map(row)}</ul>
        </details>
      ) : null}
      {asked?.kind === "describe" ? <DescribeDialog shelf={asked.shelf} onClose={() => setAsked(null)} /> : null}
      {asked?.kind === "combine" ? (
        <CombineDialog first={asked.shelf} shelves={data ?? []} onClose={() => setAsked(null)} />
      ) : null}
      {question ? <NameDialog question={question} onDone={() => setQuestion(null)} /> : null}
    </main>
  );
}
