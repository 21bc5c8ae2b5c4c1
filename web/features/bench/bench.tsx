"use client";
import { uncrossed } from "@larder/core/editing/crossings";
import { maskOfOutline } from "@larder/core/editing/proposal";
import { unsaidAttributes } from "@larder/core/editing/unsaid";
import type { Shape } from "@larder/core/model/shape";
import type { BenchImage } from "@larder/server/services/bench";
import type { ClassRow } from "@larder/server/services/classes";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useEffect, useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import { useClasses } from "@/features/live/queries";
import { useSelection } from "@/features/stock/use-selection";
import { Button } from "@/ui/button";
import { Loading, Trouble } from "@/ui/states";
import { number } from "@/ui/words";
import { AmountDialog, type Amount } from "./amount-dialog";
import { BenchKeys } from "./bench-keys";
import { ClassStrip } from "./class-strip";
import { commandsOn } from "./commands";
import { FilmStrip } from "./film-strip";
import { FollowingDialog } from "./following-dialog";
import { GammaFilter } from "./gamma-filter";
import { ImagePanel } from "./image-panel";
import { pressKey, type KeyedBench } from "./keys";
import { KeysDialog } from "./keys-dialog";
import { KindDialog } from "./kind-dialog";
import { NewClass } from "./new-class";
import { ObjectList } from "./object-list";
import { ObjectMenu } from "./object-menu";
import { ObjectPanel } from "./object-panel";
import { ProposalBar } from "./propose/proposal-bar";
import { useProposal } from "./propose/use-proposal";
import { Refused } from "./refused";
import { RequiredDialog } from "./required-dialog";
import { SavingWords } from "./saving-words";
import type { Session, SessionState } from "./session";
import { Surface, type SurfaceHandle } from "./surface";
import { ToolBar } from "./tool-bar";
import type { Tool } from "./tools";
import { pictureAddress } from "./pictures-ahead";
import { useBenchPlace } from "./use-bench-place";
import { useLastClasses } from "./use-last-classes";
import { usePicture } from "./use-picture";
import { useResolvedColours } from "./use-resolved-colours";
import { useRow } from "./use-row";
import { useSession } from "./use-session";
import { useWorkTime } from "./use-work-time";
import { filterOf, usualLight, ViewMenu, type Light } from "./view-menu";

const smallestBrush = 1;
const largestBrush = 300;
const plainColour = "#e9ece8";
/** The light of the view and the brush are kept for the row: as long as the page is open. */
let keptLight: Light = usualLight;
let keptBrush = 24;

/** One image looked at closely, its labels drawn and mended. */
export function Bench({ collection, id }: { collection: number; id: number }) {
  const { opened, error } = useSession(collection, id);
  const { data: classes } = useClasses(collection);
  useWorkTime(opened?.image.id);
  if (error) return <Trouble error={error} />;
  if (!opened || !classes) return <Loading what="the bench" />;
  return <OpenBench collection={collection} wanted={id} classes={classes} {...opened} />;
}

type DialogName = "kind" | "following" | "keys" | "class" | "required" | Amount;
type Place = Parameters<KeyedBench["go"]>[0];

const noneThere: Record<Place, string> = {
  before: "This is the first image of the row.",
  after: "This is the last image of the row.",
  unlabeled: "No image after this one in the row is unlabeled.",
  suggested: "No image after this one in the row has suggestions.",
  like: "No image of the row that was not open yet is known to be like this one.",
};

function OpenBench({
  collection,
  wanted,
  image,
  classes,
  session,
  state,
}: {
  collection: number;
  /** The image that is asked for; it is the one that is shown as soon as it is there. */
  wanted: number;
  image: BenchImage;
  classes: readonly ClassRow[];
  session: Session;
  state: SessionState;
}) {
  const { id, size } = image;
  const { labels } = state.log;
  const router = useRouter();
  const { listQuery, address } = useSelection();
  const row = useRow(collection, wanted, listQuery);
  const { selected, setSelected, startView, keepView } = useBenchPlace(wanted);
  const { ordered, note } = useLastClasses(collection, classes);
  const surface = useRef<SurfaceHandle>(null);
  /** Where one is going, from the very press on. */
  const going = useRef<number | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const pointerWords = useRef<HTMLSpanElement>(null);
  const [tool, setTool] = useState<Tool>("mend");
  const [drawn, setDrawn] = useState<number | null>(null);
  const [typed, setTyped] = useState("");
  const [brush, setBrushState] = useState(keptBrush);
  const [bare, setBare] = useState(false);
  const [light, setLightState] = useState(keptLight);
  const [only, setOnly] = useState<number | null>(null);
  const [dialog, setDialog] = useState<DialogName | null>(null);
  /** Where one was about to go when something required was found to be unsaid. */
  const [leaving, setLeaving] = useState<number | null>(null);
  const { picture, isBroken } = usePicture(id);
  const { proposal, busy: proposing, ...propose } = useProposal(picture?.element ?? null, size);
  const colours = useResolvedColours(classes);

  // Another image is another piece of work: tool, class and brush stay as they are, what was begun does not go along.
  useEffect(() => {
    propose.end();
    setTyped("");
    setDialog(null);
    going.current = null;
  }, [id]);
  const setLight = (next: Light) => setLightState((keptLight = next));
  const setBrush = (next: number) => setBrushState((keptBrush = Math.min(largestBrush, Math.max(smallestBrush, next))));
  const looks = useMemo(() => new Map(classes.map((one) => [one.id, one])), [classes]);
  const colourOf = (classId: number) => colours.get(classId) ?? plainColour;
  const current = drawn !== null && looks.has(drawn) ? drawn : (ordered[0]?.id ?? null);
  const currentClass = current === null ? undefined : looks.get(current);
  const chosen = useMemo(() => labels.objects.filter(({ uid }) => selected.has(uid)), [labels, selected]);
  const suggested = useMemo(
    () =>
      labels.suggestions.flatMap(({ uid, class: classId, shape, answer }) =>
        shape && answer === undefined ? [{ uid, class: classId, shape }] : [],
      ),
    [labels],
  );
  const visible = useMemo(
    () => labels.objects.filter((object) => only === null || object.class === only),
    [labels, only],
  );
  const unsaid = useMemo(() => unsaidAttributes(labels.objects, (classId) => looks.get(classId)), [labels, looks]);

  const commands = commandsOn({
    ...{ labels, size, chosen, current, setSelected },
    change: (steps) => session.change(steps),
    onDrawnAs: note,
    askForClass: () => setDialog("class"),
  });
  const draw = (shape: Shape) => {
    if (tool === "hole") commands.cutHole(shape);
    else if (tool !== "propose" || shape.kind !== "box") commands.add(shape);
    else if (current === null) setDialog("class");
    else propose.begin(shape);
  };
  const takeProposal = (as: "polygon" | "mask") => {
    const outline = proposal?.outline;
    propose.end();
    if (outline) commands.add(as === "mask" ? maskOfOutline(outline, size) : outline);
  };
  const nameClass = (classId: number) => {
    setDrawn(classId);
    note(classId);
    commands.nameChosen(classId);
  };
  const takeUp = (next: Tool) => {
    setTool(next);
    propose.end();
    setTyped("");
  };
  const addressOf = (other: number) => `/c/${collection}/bench/${other}?${address}`;
  // All that is shown is here already: the server is not asked for a page.
  const goTo = (other: number) => {
    going.current = other;
    window.history.pushState(null, "", addressOf(other));
  };
  const open = (other: number) => {
    if (unsaid.length === 0) return goTo(other);
    setLeaving(other);
    setDialog("required");
  };
  const toFind = {
    before: () => row.step(-1),
    after: () => row.step(1),
    unlabeled: () => row.next("state = unlabeled"),
    suggested: () => row.next("suggestions > 0"),
    like: () => row.nextLike(),
  };
  const go = async (where: Place) => {
    const found = await toFind[where]().catch(() => null);
    if (found === null) toast(noneThere[where]);
    else open(found);
  };
  const toStock = () => router.push(`/c/${collection}/stock?${address}`);
  // Whoever has asked for another image means that one by all that follows.
  const isOpening = wanted !== id;
  const onKeyDown = (event: KeyboardEvent) => {
    if (dialog !== null) return;
    pressKey(event, {
      ...{ size, classes, chosen, selected, tool, typed, session, commands, setTyped, setSelected, takeUp },
      ...{ nameClass, takeProposal, setBare, toStock },
      suggestion: suggested.find(({ uid }) => selected.has(uid)) ?? null,
      choosable: [...visible, ...suggested].map(({ uid }) => uid),
      isProposing: Boolean(proposal) || proposing,
      canTakeProposal: Boolean(proposal),
      surface: surface.current,
      endProposal: propose.end,
      scaleBrush: (factor) => setBrush(brush * factor),
      openKeys: () => setDialog("keys"),
      isOpening: isOpening || (going.current !== null && going.current !== id),
      go: (where) => void go(where),
    });
  };
  const closeDialog = () => setDialog(null);

  return (
    <BenchKeys onKeyDown={onKeyDown} onBareEnd={() => setBare(false)}>
      <GammaFilter gamma={light.gamma} />
      <main className="grid h-[calc(100vh-94px)] min-h-[480px] grid-cols-[1fr_304px] grid-rows-1 bg-dim text-dim-ink">
        <section className="flex min-w-0 flex-col">
          <header className="flex items-center gap-3 border-b border-dim-rule px-3 py-2">
            <Link
              href={`/c/${collection}/stock?${address}`}
              className="rounded-md border border-dim-rule px-2.5 py-1 hover:bg-dim-2"
            >
              Back to stock
            </Link>
            <FilmStrip
              collection={collection}
              images={row.neighbours}
              image={wanted}
              ahead={[row.after, row.before]}
              addressOf={addressOf}
              onOpen={open}
            />
            <span className="text-[12.5px] text-dim-ink-2 tabular-nums">
              {row.place === null ? "" : number(row.place)}
            </span>
            <ViewMenu light={light} onLight={setLight} only={only} onOnly={setOnly} classes={ordered} />
            <Button look="dim" small onClick={() => setDialog("keys")}>
              Keys
            </Button>
          </header>
          {isBroken ? (
            <div role="alert" className="m-auto max-w-md text-center">
              The picture of {image.name} cannot be shown: its bytes cannot be decoded here. Its labels stay as they
              are.
            </div>
          ) : (
            <div
              aria-busy={isOpening}
              className={`relative flex min-h-0 flex-1 flex-col ${isOpening ? "pointer-events-none" : ""}`}
            >
              <Surface
                ref={surface}
                picture={picture?.element ?? null}
                pixels={picture?.pixels ?? null}
                address={pictureAddress(id)}
                filter={filterOf(light)}
                size={size}
                objects={visible}
                suggested={suggested}
                proposal={proposal?.outline ?? null}
                onSay={propose.mend}
                colourOf={colourOf}
                skeletonOf={(classId) => looks.get(classId)?.skeleton}
                selected={selected}
                tool={tool}
                brush={brush}
                colour={current === null ? plainColour : colourOf(current)}
                keypoints={currentClass?.keypoints?.length ? currentClass.keypoints : onePoint}
                skeleton={currentClass?.skeleton ?? noLines}
                opacity={light.opacity / 100}
                filled={light.filled}
                bare={bare}
                startView={startView}
                onView={keepView}
                onSelect={setSelected}
                onDrawn={draw}
                onChanged={commands.reshape}
                onStroke={(stroke) => {
                  if (stroke.tool !== "split") return commands.paint(stroke);
                  takeUp("mend");
                  commands.split(stroke.points);
                }}
                onFill={commands.fill}
                onBrush={setBrush}
                onPointer={(place) => {
                  if (!pointerWords.current) return;
                  const colour = place && picture?.pixels.at(place[0], place[1]);
                  pointerWords.current.textContent = place
                    ? `${place[0].toFixed(1)}, ${place[1].toFixed(1)}${colour ? `  ·  ${colour.join(" ")}` : ""}`
                    : "";
                }}
              />
              <span
                ref={pointerWords}
                className="pointer-events-none absolute bottom-1 left-2 rounded bg-dim/80 px-1 font-mono text-[11px] whitespace-pre text-dim-ink"
              />
              {proposal || proposing ? (
                <ProposalBar
                  busy={proposing}
                  isThere={Boolean(proposal?.outline)}
                  onTake={takeProposal}
                  onRefuse={propose.end}
                />
              ) : null}
            </div>
          )}
          <footer className="space-y-1.5 border-t border-dim-rule px-3 py-2">
            <ToolBar tool={tool} onTool={takeUp} />
            <div className="flex items-center gap-2">
              <ClassStrip classes={ordered} current={current} typed={typed} onChoose={nameClass} />
              <Button look="dim" small onClick={() => setDialog("class")}>
                New class
              </Button>
            </div>
          </footer>
        </section>
        <aside aria-label="What is said" className="flex min-h-0 flex-col border-l border-dim-rule">
          <div className="border-b border-dim-rule px-3 py-2">
            <h1 className="truncate text-[15px]" title={image.name}>
              {image.name}
            </h1>
            <p className="flex flex-wrap justify-between gap-x-3 text-[12px] text-dim-ink-2">
              <span>
                {labels.state}, {number(size.width)} × {number(size.height)}
              </span>
              {isOpening ? <span role="status">Opening …</span> : <SavingWords saving={state.saving} />}
            </p>
          </div>
          <div
            ref={scroller}
            className="relative min-h-0 flex-1 overflow-y-auto px-3 py-2"
            tabIndex={0}
            role="group"
            aria-label="Objects and image"
          >
            <div className="mb-1 flex items-center justify-between">
              <h2 className="text-[14px]">
                {number(labels.objects.length)} {labels.objects.length === 1 ? "object" : "objects"}
              </h2>
              <ObjectMenu
                chosen={chosen}
                objects={labels.objects}
                size={size}
                onSteps={commands.take}
                onChangeKind={() => setDialog("kind")}
                onAmount={setDialog}
                onFollowing={() => setDialog("following")}
                onSplit={() => takeUp("split")}
              />
            </div>
            <ObjectPanel
              objects={chosen}
              size={size}
              schemas={
                chosen.every((one) => one.class === chosen[0]?.class)
                  ? ((chosen[0] && looks.get(chosen[0].class)?.attributes) ?? [])
                  : []
              }
              onSteps={commands.take}
            />
            <ObjectList
              objects={labels.objects}
              looks={looks}
              selected={selected}
              scroller={scroller}
              onSelect={setSelected}
              onUncross={({ uid, shape }) =>
                shape.kind === "polygon" &&
                commands.take([{ do: "set-shape", uid, shape: { kind: "polygon", parts: uncrossed(shape.parts) } }])
              }
            />
            <ImagePanel labels={labels} classes={classes} onSteps={commands.take} />
          </div>
        </aside>
      </main>
      {dialog === "keys" ? <KeysDialog onClose={closeDialog} /> : null}
      {dialog === "kind" ? (
        <KindDialog objects={chosen} size={size} onSteps={commands.take} onClose={closeDialog} />
      ) : null}
      {dialog === "scale" || dialog === "grow" ? (
        <AmountDialog amount={dialog} objects={chosen} size={size} onSteps={commands.take} onClose={closeDialog} />
      ) : null}
      {dialog === "following" ? (
        <FollowingDialog collection={collection} objects={chosen} following={row.following} onClose={closeDialog} />
      ) : null}
      {dialog === "class" ? (
        <NewClass collection={collection} names={classes.map(({ name }) => name)} onClose={closeDialog} />
      ) : null}
      {dialog === "required" ? (
        <RequiredDialog
          unsaid={unsaid}
          onFill={() => {
            setSelected(unsaid[0]?.uids.slice(0, 1) ?? []);
            closeDialog();
          }}
          onLeave={() => {
            closeDialog();
            if (leaving !== null) goTo(leaving);
          }}
          onClose={closeDialog}
        />
      ) : null}
      {state.saving.is === "refused" ? (
        <Refused
          image={id}
          own={labels}
          className={(classId) => looks.get(classId)?.name ?? "class"}
          saving={state.saving}
          {...{ size, session, colourOf }}
        />
      ) : null}
    </BenchKeys>
  );
}

const noLines: readonly (readonly [number, number])[] = [];
/** A class without keypoints is marked by one point. */
const onePoint: readonly string[] = ["point"];
