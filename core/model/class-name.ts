/** Names of classes as Larder keeps them. */
import { sha256OfText } from "./sha256";

/** Signs that a class name has at most, counted in code points. */
export const longestClassName = 200;

/**
 * A class name in a form that can be kept: no control characters (C0, C1 and DEL, each run of them one blank), halves of
 * surrogate pairs as U+FFFD, no blanks around it, 200 code points at most. A longer one keeps its beginning and ends with
 * the start of its SHA-256, so that two long names stay two. What is kept already comes back as it is.
 */
export function keepableName(name: string): string {
  const clean = name
    .toWellFormed()
    .replace(/\p{Cc}+/gu, " ")
    .trim();
  if (clean.length <= longestClassName) return clean === "" && name !== "" ? "unnamed" : clean;
  // No more of a name of megabytes is taken apart than can be kept.
  const signs = [...clean.slice(0, 2 * longestClassName + 2)];
  if (signs.length <= longestClassName && signs.join("") === clean) return clean;
  return `${signs
    .slice(0, longestClassName - 9)
    .join("")
    .trimEnd()}…${sha256OfText(clean).slice(0, 8)}`;
}
