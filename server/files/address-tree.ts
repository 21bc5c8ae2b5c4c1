import { Failure } from "@larder/core/model/failure";
import type { Address } from "@larder/core/intake/address-list";
import type { FileEntry } from "@larder/core/model/file-tree";
import { fetchAddress, type AddressRules } from "./fetch-address";
import { WholeFiles } from "./whole-files";

/** A list of web addresses as a file tree; each is fetched when it is read. Sizes are not known before. */
export class AddressTree extends WholeFiles {
  private readonly byName: Map<string, string>;

  constructor(
    list: readonly Address[],
    private readonly rules: AddressRules,
  ) {
    super();
    this.byName = new Map(list.map(({ name, url }) => [name, url]));
  }

  entries(): Promise<FileEntry[]> {
    return Promise.resolve([...this.byName.keys()].map((path) => ({ path, size: 0 })));
  }

  addressOf(path: string): string | null {
    return this.byName.get(path) ?? null;
  }

  read(path: string): Promise<Uint8Array> {
    const url = this.byName.get(path);
    if (url === undefined) return Promise.reject(new Failure("file-missing", `There is no ${path} in the list.`));
    return fetchAddress(url, this.rules);
  }
}
