/** What the keyboard does on the bench; documented in keys-dialog.tsx and docs/bench.md. */
import { moveShape } from "@larder/core/editing/move";
import { shapeBounds } from "@larder/core/geometry/shape";
import type { StockObject } from "@larder/core/labels/labels";
import type { Size } from "@larder/core/model/item";
import type { Shape } from "@larder/core/model/shape";
import type { ClassRow } from "@larder/server/services/classes";
import { toast } from "sonner";
import { copyObjects } from "./clipboard";
import type { Commands } from "./commands";
import type { Session } from "./session";
import type { SurfaceHandle } from "./surface";
import { tools, type Tool } from "./tools";

export type KeyedBench = {
  size: Size;
  classes: readonly ClassRow[];
  chosen: readonly StockObject[];
  /** The chosen suggestion. */
  suggestion: { uid: string; shape: Shape } | null;
  /** All that can be chosen, in order. */
  choosable: readonly string[];
  selected: ReadonlySet<string>;
  tool: Tool;
  /** The beginning of a class's code that was typed so far. */
  typed: string;
  /** Another image is on its way; until it is there, one can only go on. */
  isOpening: boolean;
  isProposing: boolean;
  canTakeProposal: boolean;
  session: Session;
  commands: Commands;
  surface: SurfaceHandle | null;
  setTyped: (typed: string) => void;
  setSelected: (uids: readonly string[]) => void;
  takeUp: (tool: Tool) => void;
  nameClass: (classId: number) => void;
  takeProposal: (as: "polygon" | "mask") => void;
  endProposal: () => void;
  scaleBrush: (factor: number) => void;
  setBare: (bare: boolean) => void;
  openKeys: () => void;
  toStock: () => void;
  go: (where: "before" | "after" | "unlabeled" | "suggested" | "like") => void;
};

const arrows: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

const isTyping = (target: HTMLElement) =>
  target.closest("input, textarea, select, [role=menu], [role=dialog]") !== null;
const isPressable = (target: HTMLElement) => target.closest("button, a") !== null;

/** After a pause, the next letter begins another code. */
const codePause = 1200;
let lastLetter = 0;

/**
 * Goes on with a class's code. The first letters that no other class has name it already; the rest of its code may follow
 * and changes nothing.
 */
function typeCode(letter: string, { classes, typed, setTyped, nameClass }: KeyedBench): void {
  const meantBy = (text: string) => classes.filter((one) => one.code.toUpperCase().startsWith(text));
  const begun = performance.now() - lastLetter < codePause ? typed : "";
  lastLetter = performance.now();
  const longer = (begun + letter).toUpperCase();
  const code = meantBy(longer).length > 0 ? longer : letter.toUpperCase();
  const meant = meantBy(code);
  const [only] = meant;
  const wasNamed = begun !== "" && code === longer && meantBy(begun).length === 1;
  if (only && meant.length === 1 && !wasNamed) nameClass(only.id);
  const isWhole = only?.code.toUpperCase() === code && meant.length === 1;
  setTyped(meant.length === 0 || isWhole ? "" : code);
}

/** Ctrl or Cmd with a key; false where it means nothing here. */
function commandKey(key: string, shift: boolean, bench: KeyedBench): boolean {
  const { session, commands, chosen, choosable, setSelected } = bench;
  switch (key) {
    case "z":
      if (shift && !session.redo()) toast("There is nothing to do again.");
      else if (!shift)
        void session.undo().then((isDone) => isDone || toast("There is nothing left to undo on this image."));
      return true;
    case "c":
      if (chosen.length > 0) copyObjects(chosen);
      return chosen.length > 0;
    case "v":
      commands.putCopied();
      return true;
    case "a":
      setSelected(choosable);
      return true;
    default:
      return false;
  }
}

function escape(bench: KeyedBench): void {
  if (bench.typed !== "") bench.setTyped("");
  else if (bench.isProposing) bench.endProposal();
  else if (bench.surface?.cancel()) return;
  else if (bench.selected.size > 0) bench.setSelected([]);
  else if (bench.tool !== "mend") bench.takeUp("mend");
  else bench.toStock();
}

function chooseNext(step: 1 | -1, { choosable, selected, setSelected }: KeyedBench): void {
  const at = choosable.findIndex((uid) => selected.has(uid));
  const from = at < 0 && step < 0 ? 0 : at;
  const next = choosable[(from + step + choosable.length) % Math.max(1, choosable.length)];
  if (next) setSelected([next]);
}

/** What a key without Ctrl does; false where it means nothing here. */
function plainKey(event: KeyboardEvent, target: HTMLElement, bench: KeyedBench): boolean {
  const { surface, commands, chosen, suggestion, size } = bench;
  const tool = event.shiftKey ? undefined : tools.find((one) => one.key === event.key)?.tool;
  if (tool) {
    bench.takeUp(tool);
    return true;
  }
  const arrow = arrows[event.key];
  if (arrow) {
    const [dx, dy] = arrow.map((step) => step * (event.shiftKey ? 10 : 1)) as [number, number];
    const moved = suggestion ? [suggestion] : chosen;
    if (moved.length === 0 || bench.isOpening) bench.go(dx < 0 || dy < 0 ? "before" : "after");
    else commands.reshape(moved.map(({ uid, shape }) => ({ uid, shape: moveShape(shape, dx, dy, size) })));
    return true;
  }
  switch (event.key) {
    case "Enter":
      if (isPressable(target)) return false;
      if (!bench.canTakeProposal) return surface?.finish() ?? false;
      bench.takeProposal(event.shiftKey ? "mask" : "polygon");
      return true;
    case "Backspace":
      return surface?.back() ?? false;
    case "Escape":
      escape(bench);
      return true;
    case " ":
      return !isPressable(target) && (surface?.skipPoint() ?? false);
    case "Delete":
      if (surface?.removeCorners()) return true;
      if (suggestion !== null) commands.answerSuggestion(suggestion.uid, "refused");
      else if (chosen.length > 0) commands.removeChosen();
      return true;
    case "+":
      if (suggestion !== null) commands.answerSuggestion(suggestion.uid, "taken");
      else surface?.zoom(1.25);
      return true;
    case "_":
      surface?.zoom(0.8);
      return true;
    case ",":
    case ".":
      chooseNext(event.key === "." ? 1 : -1, bench);
      return true;
    case "PageUp":
    case "PageDown":
      bench.go(event.key === "PageUp" ? "before" : "after");
      return true;
    case "Home":
      surface?.fit();
      return true;
    case "End":
      surface?.fullSize();
      return true;
    case "/": {
      const box = chosen[0] && shapeBounds(chosen[0].shape);
      if (box) surface?.show(box);
      return true;
    }
    case "[":
    case "]":
      bench.scaleBrush(event.key === "]" ? 1.15 : 1 / 1.15);
      return true;
    case "`":
      bench.setBare(true);
      return true;
    case "?":
      bench.openKeys();
      return true;
    case "\\": {
      const field = document.querySelector<HTMLElement>("[data-attribute-field]");
      field?.focus();
      return field !== null;
    }
    case "F2":
      commands.toggleEmpty();
      return true;
    case "F4":
      bench.go("unlabeled");
      return true;
    case "F6":
      bench.go("suggested");
      return true;
    case "F7":
      bench.go("like");
      return true;
    default:
      if (!/^\p{L}$/u.test(event.key) || event.altKey) return false;
      typeCode(event.key, bench);
      return true;
  }
}

/** Does what a key says; what was meant for the bench goes no further. */
export function pressKey(event: KeyboardEvent, bench: KeyedBench): void {
  const target = event.target as HTMLElement;
  if (isTyping(target)) {
    // Back from a field to the picture.
    if (event.key === "Escape" && target.closest("[role=menu], [role=dialog]") === null) target.blur();
    return;
  }
  const isGoing = event.key in arrows || event.key === "PageUp" || event.key === "PageDown";
  if (bench.isOpening && !isGoing) {
    event.preventDefault();
    return;
  }
  const isHandled =
    event.ctrlKey || event.metaKey
      ? commandKey(event.key.toLowerCase(), event.shiftKey, bench)
      : plainKey(event, target, bench);
  if (!isHandled) return;
  event.preventDefault();
  event.stopPropagation();
}
