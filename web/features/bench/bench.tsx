"use client";
import { uncrossed } from "@larder/core/editing/crossings";
import { splitAlong } from "@larder/core/editing/combine";
import { fillEnclosed, paintStroke, emptyCanvas } from "@larder/core/editing/mask-canvas";
import { canvasOf, maskOf } from "@larder/core/editing/mask-shape";
import { moveShape } from "@larder/core/editing/move";
import { maskOfOutline } from "@larder/core/editing/proposal";
import { paintPolygon } from "@larder/core/geometry/rasterise";
import { reachesOutside, shapeBounds, clipShape } from "@larder/core/geometry/shape";
import type { StockObject } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import type { Shape } from "@larder/core/model/shape";
import { useRouter } from "next/navigation";
import Link from "next/link";
import { useEffect, useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import { v7 as uuidV7 } from "uuid";
import { useClasses } from "@/features/live/queries";
import { useSelection } from "@/features/stock/use-selection";
import { classColour } from "@/ui/colours";
import { Button } from "@/ui/button";
import { Loading, Trouble } from "@/ui/states";
import { number } from "@/ui/words";
import { copiedObjects, copyObjects } from "./clipboard";
import { ClassStrip } from "./class-strip";
import { FilmStrip } from "./film-strip";
import { FollowingDialog } from "./following-dialog";
import { ImagePanel } from "./image-panel";
import { KeysDialog } from "./keys-dialog";
import { KindDialog } from "./kind-dialog";
import { NewClass } from "./new-class";
import { ObjectList } from "./object-list";
import { ObjectMenu } from "./object-menu";
import { ObjectPanel } from "./object-panel";
import { PicturePixels } from "./picture-pixels";
import { Refused } from "./refused";
import { SavingWords } from "./saving-words";
import { Surface, type Stroke, type SurfaceHandle } from "./surface";
import { ToolBar } from "./tool-bar";
import { tools, type Tool } from "./tools";
import { useBenchPlace } from "./use-bench-place";
import { useLastClasses } from "./use-last-classes";
import { useRow } from "./use-row";
import { useProposal } from "./propose/use-proposal";
import { ProposalBar } from "./propose/proposal-bar";
import { useSession } from "./use-session";
import { useWorkTime } from "./use-work-time";
import { filterOf, usualLight, ViewMenu, type Light } from "./view-menu";

const smallestBrush = 1;
const largestBrush = 300;
/** The light of the view is kept for the row: as long as the page is open. */
let keptLight: Light = usualLight;

/** One image looked at closely, its labels drawn and mended. */
export function Bench({ collection, id }: { collection: number; id: number }) {
  const router = useRouter();
  const { listQuery, address } = useSelection();
  const { image, error, session, state } = useSession(collection, id);
  const { data: classes } = useClasses(collection);
  const row = useRow(collection, id, listQuery);
  const { selected, setSelected, startView, keepView } = useBenchPlace(id);
  const { ordered, note } = useLastClasses(collection, classes);
  const surface = useRef<SurfaceHandle>(null);
  const [tool, setTool] = useState<Tool>("mend");
  const [drawn, setDrawn] = useState<number | null>(null);
  const [typed, setTyped] = useState("");
  const [brush, setBrush] = useState(24);
  const [bare, setBare] = useState(false);
  const [light, setLightState] = useState(keptLight);
  const [only, setOnly] = useState<number | null>(null);
  const [dialog, setDialog] = useState<"kind" | "following" | "keys" | "class" | null>(null);
  const [picture, setPicture] = useState<{ element: HTMLImageElement; pixels: PicturePixels } | null>(null);
  const [broken, setBroken] = useState(false);
  const pointerWords = useRef<HTMLSpanElement>(null);
  const { proposal, busy: proposing, ...propose } = useProposal(picture?.element ?? null, image?.size);
  useWorkTime(image?.id);
  const setLight = (next: Light) => {
    keptLight = next;
    setLightState(next);
  };

  const pictureAddress = `/api/images/${id}/picture`;
  useEffect(() => {
    setBroken(false);
    setPicture(null);
    const element = new Image();
    element.src = pictureAddress;
    let gone = false;
    element
      .decode()
      .then(() => !gone && setPicture({ element, pixels: new PicturePixels(element) }))
      .catch(() => !gone && setBroken(true));
    return () => {
      gone = true;
    };
  }, [pictureAddress]);

  const labels = state?.log.labels;
  const looks = useMemo(() => new Map(classes?.map((one) => [one.id, one])), [classes]);
  const colours = useResolvedColours(classes);
  const colourOf = (classId: number) => colours.get(classId) ?? "#e9ece8";
  const current = drawn !== null && looks.has(drawn) ? drawn : (ordered[0]?.id ?? null);
  const chosen = useMemo(() => labels?.objects.filter(({ uid }) => selected.has(uid)) ?? [], [labels, selected]);
  const chosenSuggestion = labels?.suggestions.find(({ uid }) => selected.has(uid));
  const suggested = useMemo(
    () =>
      labels?.suggestions.flatMap(({ uid, class: classId, shape, answer }) =>
        shape && answer === undefined ? [{ uid, class: classId, shape }] : [],
      ) ?? [],
    [labels],
  );
  const visible = useMemo(
    () => labels?.objects.filter((object) => only === null || object.class === only) ?? [],
    [labels, only],
  );
  if (error) return <Trouble error={error} />;
  if (!image || !classes || !session || !state || !labels) return <Loading what="the bench" />;
  const { size } = image;

  const take = (steps: readonly Step[]) => {
    try {
      session.change(steps);
    } catch (refusal) {
      toast.error((refusal as Error).message);
    }
  };
  const nextOrder = Math.max(-1, ...labels.objects.map(({ order }) => order)) + 1;

  const draw = (shape: Shape) => {
    if (tool !== "propose" || shape.kind !== "box") return add(shape);
    if (current === null) return setDialog("class");
    propose.begin(shape);
  };
  const takeProposal = (as: "polygon" | "mask") => {
    const outline = proposal?.outline;
    propose.end();
    if (outline) add(as === "mask" ? maskOfOutline(outline, size) : outline);
  };
  const add = (shape: Shape) => {
    if (current === null) return setDialog("class");
    const bounds = shapeBounds(shape);
    const isOutside =
      bounds !== null &&
      (bounds.x >= size.width ||
        bounds.y >= size.height ||
        bounds.x + bounds.width <= 0 ||
        bounds.y + bounds.height <= 0);
    if (isOutside) return void toast("That lies wholly outside of the picture. Nothing was drawn.");
    const within = reachesOutside(shape, size.width, size.height) ? clipShape(shape, size.width, size.height) : shape;
    if (!within) return void toast("That lies wholly outside of the picture. Nothing was drawn.");
    const uid = uuidV7();
    take([{ do: "add-object", object: { uid, class: current, order: nextOrder, shape: within } }]);
    note(current);
    setSelected([uid]);
  };
  /** The mask that painting goes on with: the chosen one. */
  const mask = chosen.length === 1 && chosen[0]?.shape.kind === "mask" ? chosen[0] : null;
  const paintMask = (change: (canvas: ReturnType<typeof emptyCanvas>) => boolean) => {
    const canvas = mask ? canvasOf(mask.shape, size) : emptyCanvas(size.width, size.height);
    if (!change(canvas)) return;
    const shape = maskOf(canvas);
    if (mask && shape) take([{ do: "set-shape", uid: mask.uid, shape }]);
    else if (mask) take([{ do: "remove-object", uid: mask.uid }]);
    else if (shape) add(shape);
  };
  const stroke = ({ tool: by, points, radius, take: adds }: Stroke) => {
    if (by === "split") return split(points);
    if ((by === "rub" || (by === "lasso" && !adds)) && !mask)
      return void toast("Choose the mask to take something away from.");
    paintMask((canvas) => {
      if (by === "lasso") paintPolygon(canvas.bitmap, [[[...points]]], size.width, size.height, adds ? 1 : 0);
      else paintStroke(canvas, points, radius, by === "brush" ? 1 : 0);
      return true;
    });
  };
  const split = (line: readonly number[]) => {
    const [object] = chosen;
    const halves = object && splitAlong(object.shape, line, size);
    setTool("mend");
    if (!object || !halves) return void toast("The line does not cut what is chosen.");
    const uid = uuidV7();
    take([
      { do: "set-shape", uid: object.uid, shape: halves[0] },
      { do: "add-object", object: { ...object, uid, order: nextOrder, shape: halves[1] } },
    ]);
    setSelected([object.uid, uid]);
  };
  const fill = (x: number, y: number) => {
    if (!mask) return void toast("Choose the mask whose inside is to be filled.");
    paintMask((canvas) => {
      const isFilled = fillEnclosed(canvas, Math.floor(x), Math.floor(y));
      if (!isFilled) toast("The mask does not enclose this place.");
      return isFilled;
    });
  };
  const reshaped = (shapes: readonly { uid: string; shape: Shape }[]) => {
    const proposal = suggested.find(({ uid }) => uid === shapes[0]?.uid);
    if (proposal && shapes[0]) return answerSuggestion(proposal.uid, "mended", shapes[0].shape);
    take(shapes.map(({ uid, shape }): Step => ({ do: "set-shape", uid, shape })));
  };
  const nameClass = (classId: number) => {
    setDrawn(classId);
    note(classId);
    if (chosen.length > 0)
      take(
        chosen
          .filter((object) => object.class !== classId)
          .map(({ uid }): Step => ({ do: "set-class", uid, class: classId })),
      );
  };
  function answerSuggestion(uid: string, answer: "taken" | "mended" | "refused", shape?: Shape) {
    const one = labels?.suggestions.find((suggestion) => suggestion.uid === uid);
    if (!one) return;
    const own = shape ?? one.shape;
    const object = uuidV7();
    take([
      { do: "answer-suggestion", uid, answer },
      ...(answer !== "refused" && own
        ? [
            {
              do: "add-object" as const,
              object: {
                uid: object,
                class: one.class,
                order: nextOrder,
                shape: own,
                ...(one.attributes ? { attributes: one.attributes } : {}),
              },
            },
          ]
        : []),
    ]);
    setSelected(answer === "refused" ? [] : [object]);
  }
  const toImage = (other: number | null) => other !== null && router.push(`/c/${collection}/bench/${other}?${address}`);
  const toNext = async (where: string, none: string) => {
    const next = await row.next(where).catch(() => null);
    if (next === null) toast(none);
    else toImage(next);
  };
  const takeUp = (next: Tool) => {
    setTool(next);
    propose.end();
    setTyped("");
  };
  const putCopied = () => {
    const objects = copiedObjects(nextOrder).filter(
      ({ shape }) => shape.kind !== "mask" || (shape.width === size.width && shape.height === size.height),
    );
    if (objects.length === 0) return void toast("Nothing was copied that fits here.");
    // On the same image a copy would lie unseen on what it was copied from.
    const isHere = objects.some(({ shape }) =>
      labels.objects.some((object) => JSON.stringify(object.shape) === JSON.stringify(shape)),
    );
    const placed = objects.map((object) => ({
      ...object,
      shape: isHere ? moveShape(object.shape, 8, 8, size) : object.shape,
    }));
    take(placed.map((object): Step => ({ do: "add-object", object })));
    setSelected(placed.map(({ uid }) => uid));
  };
  const toggleEmpty = () => {
    if (labels.objects.length + labels.classes.length > 0)
      return void toast("There are labels on it: remove them first.");
    take([{ do: "set-state", state: labels.state === "empty" ? "unlabeled" : "empty" }]);
  };
  const typeCode = (letter: string) => {
    const code = (typed + letter).toUpperCase();
    const meant = classes.filter((one) => one.code.toUpperCase().startsWith(code));
    const [one] = meant;
    if (!one) return setTyped("");
    if (meant.length === 1 || (one.code.toUpperCase() === code && meant.length === 1)) {
      nameClass(one.id);
      setTyped("");
    } else setTyped(code);
  };

  const onKeyDown = (event: KeyboardEvent) => {
    const target = event.target as HTMLElement;
    if (dialog !== null || target.closest("input, textarea, select, [role=menu], [role=dialog]")) return;
    const command = event.ctrlKey || event.metaKey;
    const key = event.key.toLowerCase();
    const handled = () => {
      event.preventDefault();
      event.stopPropagation();
    };
    if (command) {
      if (key === "z") {
        handled();
        if (event.shiftKey) return void (session.redo() || toast("There is nothing to do again."));
        return void session.undo().then((any) => any || toast("There is nothing left to undo on this image."));
      }
      if (key === "c" && chosen.length > 0) copyObjects(chosen);
      else if (key === "v") putCopied();
      else if (key === "a") setSelected(visible.map(({ uid }) => uid));
      else return;
      return handled();
    }
    const found = tools.find((one) => one.key === event.key);
    if (found && !event.shiftKey) {
      handled();
      return takeUp(found.tool);
    }
    const steps: Record<string, [number, number]> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, -1],
      ArrowDown: [0, 1],
    };
    const nudge = steps[event.key];
    if (nudge) {
      handled();
      if (chosen.length === 0) return void toImage(nudge[0] < 0 || nudge[1] < 0 ? row.before : row.after);
      const far = event.shiftKey ? 10 : 1;
      return reshaped(
        chosen.map(({ uid, shape }) => ({ uid, shape: moveShape(shape, nudge[0] * far, nudge[1] * far, size) })),
      );
    }
    switch (event.key) {
      case "Enter":
        if (proposal && !target.closest("button, a")) {
          takeProposal(event.shiftKey ? "mask" : "polygon");
          break;
        }
        if (target.closest("button, a") || !surface.current?.finish()) return;
        break;
      case "Backspace":
        if (!surface.current?.back()) return;
        break;
      case "Escape":
        if (typed !== "") setTyped("");
        else if (proposal || proposing) propose.end();
        else if (!surface.current?.cancel()) {
          if (selected.size > 0) setSelected([]);
          else if (tool !== "mend") takeUp("mend");
          else router.push(`/c/${collection}/stock?${address}`);
        }
        break;
      case " ":
        if (target.closest("button, a") || !surface.current?.skipPoint()) return;
        break;
      case "Delete":
        if (surface.current?.removeCorners()) break;
        if (chosenSuggestion) answerSuggestion(chosenSuggestion.uid, "refused");
        else if (chosen.length > 0) {
          take(chosen.map(({ uid }): Step => ({ do: "remove-object", uid })));
          setSelected([]);
        }
        break;
      case "+":
        if (chosenSuggestion) answerSuggestion(chosenSuggestion.uid, "taken");
        else surface.current?.zoom(1.25);
        break;
      case "_":
        surface.current?.zoom(0.8);
        break;
      case ",":
      case ".": {
        const all = [...visible.map(({ uid }) => uid), ...suggested.map(({ uid }) => uid)];
        const at = all.findIndex((uid) => selected.has(uid));
        const next = all[(at + (event.key === "." ? 1 : at < 0 ? 0 : -1) + all.length) % Math.max(1, all.length)];
        if (next) setSelected([next]);
        break;
      }
      case "PageUp":
        toImage(row.before);
        break;
      case "PageDown":
        toImage(row.after);
        break;
      case "Home":
        surface.current?.fit();
        break;
      case "End":
        surface.current?.fullSize();
        break;
      case "/": {
        const boxes = chosen.flatMap(({ shape }) => shapeBounds(shape) ?? []);
        if (boxes[0]) surface.current?.show(boxes[0]);
        break;
      }
      case "[":
        setBrush((now) => Math.max(smallestBrush, now / 1.15));
        break;
      case "]":
        setBrush((now) => Math.min(largestBrush, now * 1.15));
        break;
      case "`":
        setBare(true);
        break;
      case "?":
        setDialog("keys");
        break;
      case "F2":
        toggleEmpty();
        break;
      case "F4":
        void toNext("state = unlabeled", "No image after this one in the row is unlabeled.");
        break;
      case "F6":
        void toNext("suggestions > 0", "No image after this one in the row has suggestions.");
        break;
      default:
        if (!/^\p{L}$/u.test(event.key) || event.altKey) return;
        typeCode(event.key);
    }
    handled();
  };

  return (
    <BenchKeys onKeyDown={onKeyDown} onBareEnd={() => setBare(false)}>
      <svg className="absolute size-0" aria-hidden="true">
        <filter id="bench-gamma" colorInterpolationFilters="sRGB">
          <feComponentTransfer>
            {(["R", "G", "B"] as const).map((channel) => {
              const Channel = `feFunc${channel}` as "feFuncR";
              return <Channel key={channel} type="gamma" exponent={100 / light.gamma} />;
            })}
          </feComponentTransfer>
        </filter>
      </svg>
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
              images={row.neighbours}
              image={id}
              ahead={[row.after, row.before]}
              addressOf={(other) => `/c/${collection}/bench/${other}?${address}`}
            />
            <span className="text-[12.5px] text-dim-ink-2 tabular-nums">
              {row.place === null ? "" : number(row.place)}
            </span>
            <ViewMenu light={light} onLight={setLight} only={only} onOnly={setOnly} classes={ordered} />
            <Button look="dim" small onClick={() => setDialog("keys")}>
              Keys
            </Button>
          </header>
          {broken ? (
            <div role="alert" className="m-auto max-w-md text-center">
              The picture of {image.name} cannot be shown: its bytes cannot be decoded here. Its labels stay as they
              are.
            </div>
          ) : (
            <div className="relative flex min-h-0 flex-1 flex-col">
              <Surface
                ref={surface}
                picture={picture?.element ?? null}
                pixels={picture?.pixels ?? null}
                address={pictureAddress}
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
                colour={current === null ? "#e9ece8" : colourOf(current)}
                keypoints={(current !== null && looks.get(current)?.keypoints?.length) || 1}
                opacity={light.opacity / 100}
                filled={light.filled}
                bare={bare}
                startView={startView}
                onView={keepView}
                onSelect={(uids) => setSelected(uids)}
                onDrawn={draw}
                onChanged={reshaped}
                onStroke={stroke}
                onFill={fill}
                onBrush={(next) => setBrush(Math.min(largestBrush, Math.max(smallestBrush, next)))}
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
                className="pointer-events-none absolute bottom-1 left-3 font-mono text-[11px] whitespace-pre text-dim-ink-2"
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
            <div className="flex items-center gap-2">
              <ToolBar tool={tool} onTool={takeUp} />
            </div>
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
            <p className="flex justify-between text-[12px] text-dim-ink-2">
              <span>
                {labels.state}, {number(size.width)} × {number(size.height)}
              </span>
              <SavingWords saving={state.saving} />
            </p>
          </div>
          <div
            className="min-h-0 flex-1 overflow-y-auto px-3 py-2"
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
                onSteps={take}
                onChangeKind={() => setDialog("kind")}
                onFollowing={() => setDialog("following")}
                onSplit={() => takeUp("split")}
              />
            </div>
            <ObjectPanel
              objects={chosen}
              schemas={
                chosen.length > 0 && chosen.every((one) => one.class === chosen[0]?.class)
                  ? (looks.get((chosen[0] as StockObject).class)?.attributes ?? [])
                  : []
              }
              onSteps={take}
            />
            <ObjectList
              objects={labels.objects}
              looks={looks}
              selected={selected}
              onSelect={setSelected}
              onUncross={({ uid, shape }) =>
                shape.kind === "polygon" &&
                take([{ do: "set-shape", uid, shape: { kind: "polygon", parts: uncrossed(shape.parts) } }])
              }
            />
            <ImagePanel labels={labels} classes={classes} onSteps={take} />
          </div>
        </aside>
      </main>
      {dialog === "keys" ? <KeysDialog onClose={() => setDialog(null)} /> : null}
      {dialog === "kind" ? (
        <KindDialog objects={chosen} size={size} onSteps={take} onClose={() => setDialog(null)} />
      ) : null}
      {dialog === "following" ? (
        <FollowingDialog
          collection={collection}
          objects={chosen}
          following={row.following}
          onClose={() => setDialog(null)}
        />
      ) : null}
      {dialog === "class" ? (
        <NewClass collection={collection} names={classes.map(({ name }) => name)} onClose={() => setDialog(null)} />
      ) : null}
      {state.saving.is === "refused" ? (
        <Refused saving={state.saving} session={session} className={(classId) => looks.get(classId)?.name ?? "class"} />
      ) : null}
    </BenchKeys>
  );
}

/** Listens for keys wherever the focus is on the page; what is typed into a field stays there. */
function BenchKeys({
  onKeyDown,
  onBareEnd,
  children,
}: {
  onKeyDown: (event: KeyboardEvent) => void;
  onBareEnd: () => void;
  children: React.ReactNode;
}) {
  const latest = useRef({ onKeyDown, onBareEnd });
  latest.current = { onKeyDown, onBareEnd };
  useEffect(() => {
    const down = (event: KeyboardEvent) => latest.current.onKeyDown(event);
    const up = (event: KeyboardEvent) => event.key === "`" && latest.current.onBareEnd();
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, []);
  return <>{children}</>;
}

/** The classes' colours as a canvas takes them: style sheets' variables worked out. */
function useResolvedColours(
  classes: readonly { id: number; colour: number }[] | undefined,
): ReadonlyMap<number, string> {
  const [colours, setColours] = useState<ReadonlyMap<number, string>>(new Map());
  useEffect(() => {
    const probe = document.createElement("span");
    document.body.append(probe);
    const resolved = new Map(
      classes?.map(({ id, colour }) => {
        probe.style.color = classColour(colour);
        return [id, getComputedStyle(probe).color] as const;
      }),
    );
    probe.remove();
    setColours(resolved);
  }, [classes]);
  return colours;
}
