import { UniqueNames } from "../formats/unique-names";
import type { TilePlace } from "../imaging/frames";
import { baseName, extensionOf, withoutExtension } from "../model/file-tree";

/** What tiles and copies put behind a name; a name that ends so already is told apart without it. */
const suffix = /(?:_copy\d+|_r\d+c\d+)+$/;

/**
 * The names of a version's outputs: each stands once in the whole version, so that every format can keep it. Images ask in
 * the order of their hashes, so that names do not depend on the order in which files lie.
 */
export class OutputNames {
  private readonly names = new UniqueNames();
  private count = 0;

  /** `template` has {name}, {number}, {hash} and {split}; `multiplied` says that tiles or copies follow. */
  constructor(
    private readonly template: string,
    private readonly multiplied: boolean,
  ) {}

  /** The stem of an image's outputs: as the template has it, numbered where another image has it already. */
  claim({ name, key, split }: { name: string; key: string; split: string }): string {
    this.count++;
    const parts: Record<string, string> = {
      name: withoutExtension(baseName(name)),
      number: String(this.count).padStart(6, "0"),
      hash: key.slice(0, 16),
      split,
    };
    const wanted = this.template.replace(/\{(\w+)\}/g, (found, part: string) => parts[part] ?? found);
    if (!this.multiplied) return withoutFake(this.names.claim("", `${wanted}.x`));
    // `a` with a copy 1 and an image called `a_copy1` would be the same: they are told apart by what is before that.
    const bare = wanted.replace(suffix, "");
    const claimed = withoutFake(this.names.claim("", `${bare === "" ? wanted : bare}.x`));
    return wanted + claimed.slice((bare === "" ? wanted : bare).length);
  }
}

/** Names are claimed with an extension, so that a dot within them is not taken for one. */
const withoutFake = (claimed: string) => claimed.slice(0, -2);

/** An output's file name: the image's stem, its tile, its copy, and the extension of its bytes. */
export function outputName(stem: string, tile: TilePlace | null, copy: number, extension: string): string {
  const place = tile ? `_r${tile.row}c${tile.column}` : "";
  const numbered = `${stem}${place}${copy > 0 ? `_copy${copy}` : ""}`;
  return extension === "" ? numbered : `${numbered}.${extension}`;
}

/** The extension a name has where its bytes stay: its own, in lower case. */
export const keptExtension = (name: string, kind: string): string => extensionOf(baseName(name)) || kind;
