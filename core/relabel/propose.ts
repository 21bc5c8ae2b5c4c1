import { bareName } from "./look-alike";
import { NearNames } from "./near-names";

export type ProposalReason = "same" | "case" | "spelling" | "plural" | "letters" | "new";
/** What an incoming class could be in the collection; anything but "same" and "new" waits for a person's word. */
export type Proposal = { name: string; to: string | null; reason: ProposalReason; letters: number };

const folded = (name: string) => name.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();
const unpunctuated = (name: string) => folded(name).replace(/[^\p{L}\p{N}]/gu, "");

/**
 * Letters that two names of this length may differ by and still be taken for one: none up to 3, one up to 7, two
 * beyond.
 */
function allowance(length: number): number {
  return length <= 3 ? 0 : length <= 7 ? 1 : 2;
}

/** Numbers tell classes apart: "type 1" and "type 2" are never one. */
const digits = (name: string) => name.replace(/\D+/g, " ").trim();

/**
 * For every incoming name the class of `existing` it may mean: the same; the same but for case; but for spaces and
 * punctuation; but for a plural ending; or a few letters away (Levenshtein distance). The nearest wins, the earlier
 * on a draw.
 */
export function proposeMatches(incoming: readonly string[], existing: readonly string[]): Proposal[] {
  const first = (by: (name: string) => string) => {
    const map = new Map<string, string>();
    for (const name of existing) if (!map.has(by(name))) map.set(by(name), name);
    return map;
  };
  const exact = new Set(existing);
  const byCase = first(folded);
  const bySpelling = first(unpunctuated);
  const byPlural = first(bareName);
  const targets = existing.map(unpunctuated);
  const near = new NearNames(targets);
  return incoming.map((name): Proposal => {
    if (exact.has(name)) return { name, to: name, reason: "same", letters: 0 };
    const bare = unpunctuated(name);
    // A name of signs alone is like every other name of signs alone.
    if (bare !== "") {
      for (const [reason, found] of [
        ["case", byCase.get(folded(name))],
        ["spelling", bySpelling.get(bare)],
        ["plural", byPlural.get(bareName(name))],
      ] as const) {
        if (found !== undefined) return { name, to: found, reason, letters: 0 };
      }
    }
    let best: { to: string; letters: number } | null = null;
    for (const { index, letters } of near.near(bare)) {
      const other = existing[index] as string;
      const allowed = allowance(Math.min(bare.length, (targets[index] as string).length));
      if (letters <= allowed && digits(name) === digits(other) && (!best || letters < best.letters))
        best = { to: other, letters };
    }
    return best
      ? { name, to: best.to, reason: "letters", letters: best.letters }
      : { name, to: null, reason: "new", letters: 0 };
  });
}
