import { untakenText } from "../imaging/untaken-kinds";
import { Failure } from "../model/failure";
import type { FileTree } from "../model/file-tree";
import type { Format } from "./format";
import { formats } from "./registry";

export type Guess = { format: Format; score: number; reason: string };

export const peekBytes = 64 * 1024;

async function peekAt(files: FileTree, path: string): Promise<string> {
  const decoder = new TextDecoder();
  let text = "";
  for await (const chunk of files.stream(path)) {
    text += decoder.decode(chunk, { stream: true });
    if (text.length >= peekBytes) break;
  }
  return text.slice(0, peekBytes);
}

/**
 * Every format that fits the source, best first, from its listing and small peeks. Throws where it holds nothing
 * readable.
 */
export async function sniff(files: FileTree): Promise<Guess[]> {
  const entries = await files.entries();
  const peeked = new Map<string, Promise<string>>();
  const peek = (path: string) => {
    const known = peeked.get(path) ?? peekAt(files, path);
    peeked.set(path, known);
    return known;
  };
  const guesses: Guess[] = [];
  for (const format of formats) {
    const { score, reason } = await format.recognise(entries, peek);
    if (score > 0) guesses.push({ format, score, reason });
  }
  if (guesses.length === 0) {
    throw new Failure(
      "nothing-readable",
      entries.length === 0
        ? "It is empty: there is no file in it."
        : (untakenText(entries.map(({ path }) => path)) ??
            `There is no picture in it, and no annotation Larder can read, among its ${entries.length} files.`),
    );
  }
  return guesses.sort((a, b) => b.score - a.score);
}
