import { baseName, withoutExtension } from "../model/file-tree";

/** Names of pictures inside container files: the same name in two containers is two pictures. */
export class TakenPaths {
  private readonly taken = new Set<string>();

  /**
   * `path` where it is free, else with its container's name before it, else numbered. Never a way out of the source.
   */
  claim(path: string, container: string): string {
    const plain = path
      .replaceAll("\\", "/")
      .split("/")
      .filter((part) => part !== "" && part !== "." && part !== "..")
      .join("/");
    const candidates = [plain, `${withoutExtension(baseName(container))}/${plain}`];
    let free = candidates.find((candidate) => !this.taken.has(candidate));
    for (let n = 2; free === undefined; n++) if (!this.taken.has(`${n}/${plain}`)) free = `${n}/${plain}`;
    this.taken.add(free);
    return free;
  }
}
