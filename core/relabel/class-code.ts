/** Letters of a name that codes are made of; more of them are not looked at. */
const lettersLookedAt = 24;

/**
 * The short texts that classes also go by, so that colour is never their only sign: two or three capitals, or a letter and
 * a number, unique in a list.
 */
export class ClassCodes {
  private readonly codes: Set<string>;
  /** For each first letter the number that is tried next. */
  private readonly numbers = new Map<string, number>();

  constructor(codes: Iterable<string> = []) {
    this.codes = new Set(codes);
  }

  /** A code for a class that no other has. */
  take(name: string): string {
    const code = candidates(name).find((candidate) => !this.codes.has(candidate)) ?? this.numbered(firstLetter(name));
    this.codes.add(code);
    return code;
  }

  private numbered(first: string): string {
    let n = this.numbers.get(first) ?? 1;
    while (this.codes.has(`${first}${n}`)) n++;
    this.numbers.set(first, n + 1);
    return `${first}${n}`;
  }
}

function lettersOf(name: string): string[] {
  return [
    ...name
      .slice(0, 4 * lettersLookedAt)
      .normalize("NFD")
      .replace(/\p{M}/gu, ""),
  ]
    .filter((letter) => /[\p{L}\p{N}]/u.test(letter))
    .map((letter) => letter.toUpperCase())
    .slice(0, lettersLookedAt);
}

const firstLetter = (name: string) => lettersOf(name)[0] ?? "X";

/** Codes that would suit a name, the best first. */
function candidates(name: string): string[] {
  const [first = "X", ...rest] = lettersOf(name);
  const words = name.split(/[^\p{L}\p{N}]+/u, 8).filter((word) => word !== "");
  const consonants = rest.filter((letter) => !/[AEIOU]/.test(letter));
  return [
    ...(words.length > 1 ? [first + (words[1]?.[0] ?? "").toUpperCase()] : []),
    ...consonants.map((letter) => first + letter),
    ...rest.map((letter) => first + letter),
    ...consonants.flatMap((a, i) => consonants.slice(i + 1).map((b) => first + a + b)),
  ].filter((candidate) => candidate.length >= 2);
}
