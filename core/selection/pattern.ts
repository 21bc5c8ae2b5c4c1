/** Patterns of `like`: `*` is any run, `?` one character; they mean the whole text and are case-blind. */

const isPair = (text: string, at: number) => {
  const unit = text.charCodeAt(at);
  return unit >= 0xd800 && unit < 0xdc00 && at + 1 < text.length;
};

/**
 * Whether a text matches a pattern, both in lower case. Goes back to the last star alone, so that it takes at most
 * pattern × text steps whatever the pattern (R. Cox, "Glob Matching Can Be Simple And Fast Too").
 */
function matchesLower(text: string, pattern: string): boolean {
  let [at, p] = [0, 0];
  let [star, from] = [-1, 0];
  while (at < text.length) {
    const sign = pattern[p];
    if (sign === "*") {
      star = p++;
      from = at;
    } else if (sign === "?") {
      at += isPair(text, at) ? 2 : 1;
      p++;
    } else if (sign !== undefined && sign === text[at]) {
      at++;
      p++;
    } else if (star >= 0) {
      p = star + 1;
      at = ++from;
    } else return false;
  }
  while (pattern[p] === "*") p++;
  return p === pattern.length;
}

/**
 * Whether a text is these pieces, in their order, with anything between them; both in lower case. Each inner piece is
 * looked for as far left as it can be, which leaves the others the most room.
 */
function holdsPieces(text: string, pieces: readonly string[]): boolean {
  const [first = "", last = ""] = [pieces[0], pieces.at(-1)];
  const end = text.length - last.length;
  if (first.length > end || !text.startsWith(first) || !text.endsWith(last)) return false;
  let at = first.length;
  for (let nth = 1; nth < pieces.length - 1; nth++) {
    const piece = pieces[nth] as string;
    const found = text.indexOf(piece, at);
    if (found < 0 || found + piece.length > end) return false;
    at = found + piece.length;
  }
  return true;
}

/** A pattern made ready for texts that are in lower case already: says of each whether it matches. */
export function lowerPatternTest(pattern: string): (lower: string) => boolean {
  const lowerPattern = pattern.toLowerCase();
  if (lowerPattern.includes("?")) return (lower) => matchesLower(lower, lowerPattern);
  const pieces = lowerPattern.split("*");
  // Runs of stars mean what one does: the pieces between them are empty, and found anywhere.
  return pieces.length === 1 ? (lower) => lower === lowerPattern : (lower) => holdsPieces(lower, pieces);
}

/** A pattern made ready: says of each text whether it matches. */
export function patternTest(pattern: string): (text: string) => boolean {
  const matches = lowerPatternTest(pattern);
  return (text) => matches(text.toLowerCase());
}

/** The pattern for SQL's `like` on a text in lower case, with `\` as its escape. */
export function patternForSql(pattern: string): string {
  return pattern
    .toLowerCase()
    .replace(/[\\%_]/g, "\\$&")
    .replace(/\*+/g, "%")
    .replaceAll("?", "_");
}
