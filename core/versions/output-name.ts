import { baseName, extensionOf, withoutExtension } from "../model/file-tree";

/**
 * The name an output image goes by: its stock name, with `_copy1`, … for augmented copies and the extension of its
 * bytes.
 */
export function outputName(name: string, copy: number, extension: string | null): string {
  const base = baseName(name);
  const stem = withoutExtension(base) + (copy > 0 ? `_copy${copy}` : "");
  const kept = extension ?? extensionOf(base);
  return kept === "" ? stem : `${stem}.${kept}`;
}
