/** The one range of a Range header (RFC 9110, section 14), both ends included; null where there is none or several. */
export function byteRange(
  header: string | null,
  length: number,
): { start: number; end: number } | "unsatisfiable" | null {
  const match = /^bytes=(\d*)-(\d*)$/.exec(header?.trim() ?? "");
  if (!match || (match[1] === "" && match[2] === "")) return null;
  const [first, last] = [match[1] ?? "", match[2] ?? ""];
  const start = first === "" ? Math.max(0, length - Number(last)) : Number(first);
  const end = first === "" || last === "" ? length - 1 : Math.min(length - 1, Number(last));
  if (start >= length || (first === "" && Number(last) === 0)) return "unsatisfiable";
  return end < start ? null : { start, end };
}
