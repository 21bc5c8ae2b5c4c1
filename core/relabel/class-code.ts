/**
 * The short text a class also goes by, so that colour is never its only sign: two or three capitals, unique in a list.
 */
export function classCode(name: string, codes: ReadonlySet<string>): string {
  const letters = [...name.normalize("NFD").replace(/\p{M}/gu, "")]
    .filter((letter) => /[\p{L}\p{N}]/u.test(letter))
    .map((letter) => letter.toUpperCase());
  const first = letters[0] ?? "X";
  const rest = letters.slice(1);
  const words = name.split(/[^\p{L}\p{N}]+/u).filter((word) => word !== "");
  const consonants = rest.filter((letter) => !/[AEIOU]/.test(letter));
  const candidates = [
    ...(words.length > 1 ? [first + (words[1]?.[0] ?? "").toUpperCase()] : []),
    ...consonants.map((letter) => first + letter),
    ...rest.map((letter) => first + letter),
    ...consonants.flatMap((a, i) => consonants.slice(i + 1).map((b) => first + a + b)),
  ];
  for (const candidate of candidates) if (candidate.length >= 2 && !codes.has(candidate)) return candidate;
  for (let n = 1; ; n++) if (!codes.has(`${first}${n}`)) return `${first}${n}`;
}
