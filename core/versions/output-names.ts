import { UniqueNames } from "../formats/unique-names";
import { baseName, extensionOf, withoutExtension } from "../model/file-tree";

/** The names of a version's outputs: each stands once in the whole version, so that every format can keep it. */
export class OutputNames {
  private readonly names = new UniqueNames();

  /**
   * The name an output image goes by: its stock name, with `_copy1`, … for augmented copies and the extension of its
   * bytes; numbered where another output has it already.
   */
  claim(name: string, copy: number, extension: string | null): string {
    const base = baseName(name);
    const stem = withoutExtension(base) + (copy > 0 ? `_copy${copy}` : "");
    const kept = extension ?? extensionOf(base);
    return this.names.claim("", kept === "" ? stem : `${stem}.${kept}`);
  }
}
