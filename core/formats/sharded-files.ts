import type { FileSink, Spool } from "../model/file-tree";

const shardBytes = 128 * 2 ** 20;

/**
 * One split's records over several files of about 128 MB; their names are given once it is known how many there are.
 */
export class ShardedFiles {
  private readonly spools: Spool[] = [];

  constructor(private readonly sink: FileSink) {}

  async append(bytes: Uint8Array): Promise<void> {
    const last = this.spools[this.spools.length - 1];
    const open = last && last.size < shardBytes ? last : await this.sink.spool();
    if (open !== last) this.spools.push(open);
    await open.append(bytes);
  }

  /** Names every shard by its number and how many there are. */
  async commit(nameOf: (number: number, count: number) => string): Promise<void> {
    for (const [number, spool] of this.spools.entries()) await spool.commit(nameOf(number, this.spools.length));
  }
}
