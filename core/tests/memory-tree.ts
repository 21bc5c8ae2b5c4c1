import { isLitter, type FileEntry, type FileSink, type FileTree, type Spool } from "../model/file-tree";

/** Files in memory, for tests: reads in small chunks so that boundaries fall everywhere. */
export class MemoryTree implements FileTree, FileSink {
  readonly files = new Map<string, Uint8Array>();

  constructor(
    files: Record<string, string | Uint8Array> = {},
    private readonly chunk = 7,
  ) {
    for (const [path, content] of Object.entries(files))
      this.files.set(path, typeof content === "string" ? new TextEncoder().encode(content) : content);
  }

  entries(): Promise<FileEntry[]> {
    return Promise.resolve(
      [...this.files].flatMap(([path, bytes]) => (isLitter(path) ? [] : [{ path, size: bytes.length }])),
    );
  }

  read(path: string): Promise<Uint8Array> {
    const bytes = this.files.get(path);
    return bytes ? Promise.resolve(bytes) : Promise.reject(new Error(`no ${path}`));
  }

  async *stream(path: string): AsyncIterable<Uint8Array> {
    const bytes = await this.read(path);
    for (let at = 0; at < bytes.length; at += this.chunk) yield bytes.subarray(at, at + this.chunk);
  }

  async readRange(path: string, start: number, end: number): Promise<Uint8Array> {
    return (await this.read(path)).slice(start, end);
  }

  spool(): Promise<Spool> {
    const chunks: Uint8Array[] = [];
    return Promise.resolve({
      get size() {
        return chunks.reduce((sum, chunk) => sum + chunk.length, 0);
      },
      append: (bytes) => Promise.resolve(void chunks.push(bytes.slice())),
      commit: (path) => this.write(path, Buffer.concat(chunks)),
    });
  }

  async write(path: string, content: Uint8Array | string | AsyncIterable<Uint8Array>): Promise<void> {
    if (this.files.has(path)) throw new Error(`${path} is written twice`);
    if (typeof content === "string") this.files.set(path, new TextEncoder().encode(content));
    else if (content instanceof Uint8Array) this.files.set(path, content);
    else {
      const chunks: Uint8Array[] = [];
      for await (const piece of content) chunks.push(piece);
      this.files.set(path, Buffer.concat(chunks));
    }
  }

  text(path: string): string {
    return new TextDecoder().decode(this.files.get(path));
  }
}
