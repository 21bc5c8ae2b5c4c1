/**
 * Reads the arrays at the top level of a large JSON object element by element, so that a file of hundreds of
 * megabytes is never held whole. The bytes are only scanned for strings and brackets; the elements themselves
 * are parsed by JSON.parse, a batch at a time.
 */

const quote = 0x22;
const backslash = 0x5c;
const batchBytes = 1 << 20;

export class JsonUnreadable extends Error {}

type TakesElement = (element: unknown) => void;

/** Reads elements from their bytes, a run of them at a time. */
export type RowReader = {
  /**
   * Takes the elements that lie whole in `bytes` from `from` to `to`, where a 0 stands, and are followed by a comma.
   * Returns the index of
   * the first that was not taken; `wantsMore` where more bytes would help, false where the list ends there or holds
   * what the reader does not know.
   */
  take: (bytes: Uint8Array, from: number, to: number) => { at: number; wantsMore: boolean };
};

/** What is called for each element; with a row reader, for those that it leaves. */
type Handlers = Record<string, TakesElement | { rows: RowReader; element: TakesElement }>;

/** Bare NaN and Infinity, which some writers leave in, become null; strings keep theirs. */
export function withoutBareNumbers(text: string): string {
  return text.replace(/"(?:[^"\\]|\\.)*"|-?\b(?:NaN|Infinity)\b/g, (token) => (token.startsWith('"') ? token : "null"));
}

function parseBatch(text: string): unknown[] {
  try {
    return JSON.parse(text) as unknown[];
  } catch {
    try {
      return JSON.parse(withoutBareNumbers(text)) as unknown[];
    } catch (error) {
      throw new JsonUnreadable(error instanceof Error ? error.message : "not JSON");
    }
  }
}

/** Bytes that mean something outside of strings: quote, brackets, comma. */
const meaning = new Uint8Array(256);
for (const byte of [quote, 0x7b, 0x5b, 0x7d, 0x5d, 0x2c]) meaning[byte] = 1;

/** Bytes that wait to be parsed, in the pieces in which they came. */
class Batch {
  bytes = 0;
  private pieces: Uint8Array[] = [];

  keep(piece: Uint8Array): void {
    if (piece.length === 0) return;
    this.pieces.push(piece);
    this.bytes += piece.length;
  }

  /** All of it between square brackets; the batch is empty then. */
  bracketed(): Uint8Array {
    const joined = new Uint8Array(this.bytes + 2);
    joined[0] = 0x5b;
    let at = 1;
    for (const piece of this.pieces) {
      joined.set(piece, at);
      at += piece.length;
    }
    joined[at] = 0x5d;
    this.pieces = [];
    this.bytes = 0;
    return joined;
  }
}

/** Index of the last comma between a closing and an opening brace, blanks aside; -1 where there is none. */
function lastSeam(bytes: Uint8Array): number {
  for (let i = bytes.length - 1; i > 0; i--) {
    if (bytes[i] !== 0x2c) continue;
    let [before, after] = [i - 1, i + 1];
    while ((bytes[before] as number) <= 0x20 && before > 0) before--;
    while (after < bytes.length && (bytes[after] as number) <= 0x20) after++;
    if (bytes[before] === 0x7d && bytes[after] === 0x7b) return i;
  }
  return -1;
}

/**
 * Calls `handlers[key]` for each element of the top-level array named `key`; other keys are skipped.
 * Returns the names of the top-level keys seen. Throws JsonUnreadable where the text is not a JSON object or ends
 * early.
 */
export async function readTopLevelArrays(stream: AsyncIterable<Uint8Array>, handlers: Handlers): Promise<string[]> {
  const scan = new Scan(handlers);
  for await (const chunk of stream) scan.take(chunk);
  return scan.end();
}

class Scan {
  private readonly keys: string[] = [];
  private readonly decoder = new TextDecoder("utf-8");
  private readonly batch = new Batch();
  /** Opening brackets and their closing ones are two code units apart, for both kinds. */
  private readonly open: number[] = [];
  private inString = false;
  private escaped = false;
  private started = false;
  private ended = false;
  private expectKey = false;
  private keyBytes: number[] | null = null;
  private key = "";
  private handler: TakesElement | null = null;
  private rows: RowReader | null = null;
  /** While the content of a wanted array is cut at seams and parsed without looking at every byte. */
  private leaping = false;

  constructor(private readonly handlers: Handlers) {}

  take(chunk: Uint8Array): void {
    if (!this.leaping) {
      this.walk(chunk);
      return;
    }
    // The chunk's memory may be reused by its stream, so what waits is copied.
    this.batch.keep(new Uint8Array(chunk));
    if (this.batch.bytes > batchBytes) this.leap();
  }

  /**
   * Parses all that waits up to its last seam. Text that parses as a list is one, so the seam was between two elements;
   * where it does not (the array ended in between, or the seam lay deeper), the bytes are walked through instead.
   */
  private leap(): void {
    const joined = this.batch.bracketed();
    if (this.rows) {
      joined[joined.length - 1] = 0;
      const { at, wantsMore } = this.rows.take(joined, 1, joined.length - 1);
      // One element that fills a batch is not looked through again with each chunk that comes.
      if (wantsMore && at > 1) this.batch.keep(joined.subarray(at, -1));
      else this.walkFrom(joined.subarray(at, -1));
      return;
    }
    const seam = lastSeam(joined);
    if (seam > 0) {
      joined[seam] = 0x5d;
      let elements: unknown[] | null = null;
      try {
        elements = JSON.parse(this.decoder.decode(joined.subarray(0, seam + 1))) as unknown[];
      } catch {
        joined[seam] = 0x2c;
      }
      if (elements && this.handler) {
        for (const element of elements) this.handler(element);
        this.batch.keep(joined.subarray(seam + 1, -1));
        return;
      }
    }
    this.walkFrom(joined.subarray(1, -1));
  }

  /** From here on every byte is looked at, to the end of the wanted array. */
  private walkFrom(rest: Uint8Array): void {
    this.leaping = false;
    this.walk(rest);
  }

  private flush(): void {
    if (this.batch.bytes === 0 || !this.handler) return;
    for (const element of parseBatch(this.decoder.decode(this.batch.bracketed()))) this.handler(element);
  }

  private walk(chunk: Uint8Array): void {
    // Start of the wanted array's content within this chunk that has not been kept yet; -1 outside of one.
    let from = this.handler ? 0 : -1;
    const length = chunk.length;
    for (let i = 0; i < length; i++) {
      if (this.inString) {
        i = this.skipString(chunk, i);
        continue;
      }
      if (this.started) while (i < length && meaning[chunk[i] as number] === 0) i++;
      if (i >= length) break;
      const byte = chunk[i] as number;
      if (byte === quote) this.openString();
      else if (byte === 0x2c) {
        if (this.open.length === 1) this.expectKey = true;
        else if (this.open.length === 2 && this.handler && this.batch.bytes + i - from > batchBytes) {
          this.batch.keep(chunk.subarray(from, i));
          this.flush();
          from = i + 1;
        }
      } else if (byte === 0x7b || byte === 0x5b) {
        if (this.openBracket(byte)) {
          this.leaping = true;
          this.take(chunk.subarray(i + 1));
          return;
        }
      } else if (byte === 0x7d || byte === 0x5d) {
        if (this.open.pop() !== byte - 2)
          throw new JsonUnreadable("a bracket closes that was never opened, or another one was");
        if (this.open.length === 1 && this.handler) {
          this.batch.keep(chunk.subarray(from, i));
          this.flush();
          this.handler = null;
          from = -1;
        }
        if (this.open.length === 0) this.ended = true;
      } else if (!this.started && byte > 0x20 && byte !== 0xef && byte !== 0xbb && byte !== 0xbf) {
        throw new JsonUnreadable("it is not a JSON object");
      }
    }
    // The chunk's memory may be reused by its stream, so what waits is copied.
    if (from >= 0 && this.handler) this.batch.keep(new Uint8Array(chunk.subarray(from)));
  }

  /** Goes on in a string from `i`; returns the index of its closing quote, or of the chunk's last byte. */
  private skipString(chunk: Uint8Array, i: number): number {
    for (; i < chunk.length; i++) {
      const byte = chunk[i] as number;
      if (this.escaped) this.escaped = false;
      else if (byte === backslash) this.escaped = true;
      else if (byte === quote) {
        this.inString = false;
        if (this.keyBytes) {
          this.key = this.decoder.decode(new Uint8Array(this.keyBytes));
          this.keys.push(this.key);
          this.keyBytes = null;
        }
        return i;
      }
      this.keyBytes?.push(byte);
    }
    return i;
  }

  private openString(): void {
    if (!this.started) throw new JsonUnreadable("it is not a JSON object");
    this.inString = true;
    if (this.open.length === 1 && this.expectKey) {
      this.keyBytes = [];
      this.expectKey = false;
    }
  }

  /** True where the content of a wanted array begins. */
  private openBracket(byte: number): boolean {
    if (!this.started) {
      if (byte !== 0x7b) throw new JsonUnreadable("it is not a JSON object");
      this.started = true;
      this.expectKey = true;
    }
    this.open.push(byte);
    if (this.open.length !== 2 || byte !== 0x5b || !Object.hasOwn(this.handlers, this.key)) return false;
    const wanted = this.handlers[this.key] ?? null;
    this.handler = wanted && "element" in wanted ? wanted.element : wanted;
    this.rows = wanted && "rows" in wanted ? wanted.rows : null;
    return this.handler !== null;
  }

  /** The keys seen, once the text has ended as it should. */
  end(): string[] {
    while (this.leaping) {
      this.leaping = false;
      this.walk(this.batch.bracketed().subarray(1, -1));
    }
    if (!this.ended || this.inString) throw new JsonUnreadable("it ends in the middle");
    return this.keys;
  }
}
