/**
 * Reads the arrays at the top level of a large JSON object element by element, so that a file of hundreds of
 * megabytes is never held whole. The bytes are only scanned for strings and brackets; the elements themselves
 * are parsed by JSON.parse, a batch at a time.
 */

const quote = 0x22;
const backslash = 0x5c;
const batchBytes = 1 << 20;

export class JsonUnreadable extends Error {}

type Handlers = Record<string, (element: unknown) => void>;

/** Bare NaN and Infinity, which some writers leave in, become null; strings keep theirs. */
function withoutBareNumbers(text: string): string {
  return text.replace(/"(?:[^"\\]|\\.)*"|-?\b(?:NaN|Infinity)\b/g, (token) => (token.startsWith('"') ? token : "null"));
}

function parseBatch(text: string): unknown[] {
  const whole = `[${text}]`;
  try {
    return JSON.parse(whole) as unknown[];
  } catch {
    try {
      return JSON.parse(withoutBareNumbers(whole)) as unknown[];
    } catch (error) {
      throw new JsonUnreadable(error instanceof Error ? error.message : "not JSON");
    }
  }
}

/**
 * Calls `handlers[key]` for each element of the top-level array named `key`; other keys are skipped.
 * Returns the names of the top-level keys seen. Throws JsonUnreadable where the text is not a JSON object or ends early.
 */
export async function readTopLevelArrays(stream: AsyncIterable<Uint8Array>, handlers: Handlers): Promise<string[]> {
  const keys: string[] = [];
  const decoder = new TextDecoder("utf-8");
  let depth = 0;
  // Opening brackets and their closing ones are two code units apart, for both kinds.
  const open: number[] = [];
  let inString = false;
  let escaped = false;
  let started = false;
  let ended = false;
  let expectKey = false;
  let keyBytes: number[] | null = null;
  let key = "";
  let handler: ((element: unknown) => void) | null = null;
  let pending: Uint8Array[] = [];
  let pendingBytes = 0;

  const flush = () => {
    if (pendingBytes === 0 || !handler) return;
    const joined = new Uint8Array(pendingBytes);
    let at = 0;
    for (const piece of pending) {
      joined.set(piece, at);
      at += piece.length;
    }
    pending = [];
    pendingBytes = 0;
    const text = decoder.decode(joined);
    if (text.trim() === "") return;
    for (const element of parseBatch(text)) handler(element);
  };
  const keep = (piece: Uint8Array) => {
    if (piece.length === 0) return;
    pending.push(piece);
    pendingBytes += piece.length;
  };

  for await (const chunk of stream) {
    // Start of the array content within this chunk that has not been kept yet; -1 outside a wanted array.
    let from = depth >= 2 && handler ? 0 : -1;
    for (let i = 0; i < chunk.length; i++) {
      const byte = chunk[i] as number;
      if (inString) {
        if (escaped) escaped = false;
        else if (byte === backslash) escaped = true;
        else if (byte === quote) {
          inString = false;
          if (keyBytes) {
            key = decoder.decode(new Uint8Array(keyBytes));
            keys.push(key);
            keyBytes = null;
          }
          continue;
        }
        if (keyBytes) keyBytes.push(byte);
        continue;
      }
      if (byte === quote) {
        if (!started) throw new JsonUnreadable("it is not a JSON object");
        inString = true;
        if (depth === 1 && expectKey) {
          keyBytes = [];
          expectKey = false;
        }
      } else if (byte === 0x7b || byte === 0x5b) {
        if (!started) {
          if (byte !== 0x7b) throw new JsonUnreadable("it is not a JSON object");
          started = true;
          expectKey = true;
        }
        open.push(byte);
        depth++;
        if (depth === 2 && byte === 0x5b && Object.hasOwn(handlers, key)) {
          handler = handlers[key] ?? null;
          from = i + 1;
        }
      } else if (byte === 0x7d || byte === 0x5d) {
        depth--;
        if (depth < 0 || open.pop() !== byte - 2) throw new JsonUnreadable("a bracket closes that was never opened, or another one was");
        if (depth === 1 && handler) {
          keep(chunk.subarray(from, i));
          flush();
          handler = null;
          from = -1;
        }
        if (depth === 0) ended = true;
      } else if (byte === 0x2c) {
        if (depth === 1) expectKey = true;
        else if (depth === 2 && handler && pendingBytes + i - from > batchBytes) {
          keep(chunk.subarray(from, i));
          flush();
          from = i + 1;
        }
      } else if (!started && byte > 0x20 && byte !== 0xef && byte !== 0xbb && byte !== 0xbf) {
        throw new JsonUnreadable("it is not a JSON object");
      }
    }
    // The chunk's memory may be reused by its stream, so what waits is copied.
    if (from >= 0 && handler) keep(chunk.slice(from));
  }
  if (!ended || inString) throw new JsonUnreadable("it ends in the middle");
  return keys;
}
