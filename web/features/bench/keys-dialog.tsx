"use client";
import { Dialog } from "@/ui/dialog";
import { tools } from "./tools";

const others: readonly [string, string][] = [
  ["letters", "the class with this code: of what is chosen, or of what is drawn next"],
  ["Enter, Backspace, Escape", "end what is drawn, take its last point back, give it up"],
  ["Alt while drawing", "no snapping to outlines and border"],
  ["Shift and click", "choose several objects, or several corners of one"],
  ["Delete", "remove the chosen corners, else the chosen objects"],
  [", and .", "the object before and the next one"],
  ["arrows", "move what is chosen by a pixel, with Shift by ten; with nothing chosen: image before, next image"],
  ["Page up, Page down", "image before, next image"],
  ["Ctrl C, Ctrl V", "copy what is chosen, put it into this or another image"],
  ["Ctrl Z, Ctrl Shift Z", "undo, also what was done before; do again"],
  ["wheel, Space and drag", "zoom at the pointer, move the picture"],
  ["Home, End, /", "the whole picture, its full size, what is chosen"],
  ["` held down", "the picture without shapes"],
  ["F2", "nothing is on it (again: it is unlabeled)"],
  ["\\", "the first attribute of what is chosen; Tab walks on, Escape leaves it"],
  ["F4, F6, F7", "next unlabeled image, next one with suggestions, next one like this"],
  ["+ and Delete on a suggestion", "take it, refuse it"],
];

/** What the keyboard does on the bench. */
export function KeysDialog({ onClose }: { onClose: () => void }) {
  return (
    <Dialog open wide onOpenChange={(open) => !open && onClose()} title="Keys of the bench">
      <dl className="grid grid-cols-[190px_1fr] gap-x-4 gap-y-1.5 text-[13px]">
        {[...tools.map(({ key, name, help }): [string, string] => [key, `${name}: ${help}`]), ...others].map(
          ([key, what]) => (
            <div key={key} className="contents">
              <dt className="font-medium">{key}</dt>
              <dd className="text-ink-2">{what}</dd>
            </div>
          ),
        )}
      </dl>
    </Dialog>
  );
}
