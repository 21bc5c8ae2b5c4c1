/** Files that hold pictures in a way Larder cannot read: what they are, and what to do about it. */
import { extensionOf } from "../model/file-tree";
import type { Findings } from "../model/finding";

type Kind = { is: string; advice: string };

const heic: Kind = { is: "HEIC", advice: "convert it to JPEG or PNG first" };
const video: Kind = { is: "a video", advice: "take single pictures out of it first" };
const raw: Kind = { is: "a camera's raw file", advice: "develop it to JPEG, PNG or TIFF first" };
const layers: Kind = { is: "a layered picture", advice: "save it as PNG or TIFF first" };
const drawing: Kind = { is: "a vector drawing", advice: "save it as PNG first" };

const byExtension = new Map<string, Kind>([
  ...["heic", "heif", "hif"].map((name) => [name, heic] as const),
  ...["mp4", "mov", "avi", "mkv", "webm", "m4v", "mpg", "mpeg", "wmv", "mts"].map((name) => [name, video] as const),
  ...["cr2", "cr3", "nef", "arw", "dng", "orf", "rw2", "raf"].map((name) => [name, raw] as const),
  ...["psd", "xcf"].map((name) => [name, layers] as const),
  ...["svg", "eps"].map((name) => [name, drawing] as const),
]);

/** Brands of the ISO base media file format (ISO/IEC 14496-12, 4.3) that say what a file is. */
const heicBrands = new Set(["heic", "heix", "hevc", "hevx", "heim", "heis", "mif1", "msf1"]);
const videoBrands = /^(isom|iso\d|mp4\d|mp42|avc1|qt {2}|M4V |3gp\d|dash)$/;

/** What a file is by its first bytes, where that is a kind that cannot be read; null for anything else. */
export function untakenKindOfBytes(bytes: Uint8Array): Kind | null {
  const text = new TextDecoder("latin1").decode(bytes.subarray(0, 64));
  if (text.slice(4, 8) === "ftyp") {
    const brand = text.slice(8, 12);
    // A picture whose main brand is common to several codecs names its own among the compatible ones.
    if (brand === "avif" || brand === "avis" || text.slice(16).includes("avif")) return null;
    if (heicBrands.has(brand)) return heic;
    if (videoBrands.test(brand)) return video;
  }
  if (text.startsWith("8BPS")) return layers;
  return text.startsWith("\u001aEß£") || (text.startsWith("RIFF") && text.slice(8, 12) === "AVI ") ? video : null;
}

/** What a kind is and what to do, as half a sentence. */
export function kindText({ is, advice }: Kind): string {
  return `it is ${is}, which Larder does not read; ${advice}`;
}

/** Names the files that hold pictures but cannot be read. Returns how many there are. */
export function reportUntakenFiles(paths: readonly string[], report: Findings): number {
  let count = 0;
  for (const path of paths) {
    const kind = byExtension.get(extensionOf(path));
    if (!kind) continue;
    count++;
    report.add("file-not-taken", path, kindText(kind));
  }
  return count;
}

/** For a source of which nothing else can be read: what its files are; null where none is of a known kind. */
export function untakenText(paths: readonly string[]): string | null {
  for (const path of paths) {
    const kind = byExtension.get(extensionOf(path));
    if (kind) return `${path}: ${kindText(kind)}.`;
  }
  return null;
}
