/** File names that a disk takes: 255 bytes of UTF-8 at most, with room for what is put behind them. */
import { extensionOf } from "./file-tree";
import { sha256OfText } from "./sha256";

/** Room is left for a number and another extension: label files are named after their picture. */
const mostBytes = 230;
const hashDigits = 8;

const encoder = new TextEncoder();

/** The longest beginning of `text` that takes `bytes` bytes at most and ends no sign in the middle. */
function beginning(text: string, bytes: number): string {
  let taken = 0;
  let kept = "";
  for (const sign of text) {
    taken += encoder.encode(sign).length;
    if (taken > bytes) break;
    kept += sign;
  }
  return kept;
}

/**
 * The name as it is where a disk takes it; else its beginning, a hash of the whole and its extension. Two names are
 * shortened to one only where they are the same.
 */
export function shortenedName(name: string): string {
  if (name.length * 3 <= mostBytes || encoder.encode(name).length <= mostBytes) return name;
  const extension = extensionOf(name);
  const kept = extension === "" || extension.length > 10 ? "" : name.slice(-extension.length - 1);
  const end = `~${sha256OfText(name).slice(0, hashDigits)}${kept}`;
  return beginning(name, mostBytes - end.length) + end;
}
