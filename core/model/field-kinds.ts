/** What the texts of an image's fields read as: numbers, dates, JSON, or anything. */

export const fieldKinds = ["number", "date", "JSON", "text"] as const;
export type FieldKind = (typeof fieldKinds)[number];

/** Texts longer than this are no numbers or dates. */
const longestValue = 60;

/** A number in figures, as is or grouped by threes, with a currency, a unit's per cent or neither. */
const numberPattern = /^[-+]?\p{Sc}? ?(\d+|\d{1,3}([,.' ]\d{3})+)([.,]\d+)? ?(%|\p{Sc}|[A-Z]{3})?$/u;
const yearFirst = /^(\d{4})-(\d{1,2})-(\d{1,2})([T ]\d{1,2}:\d{2}(:\d{2}(\.\d+)?)?(Z|[+-]\d{2}:?\d{2})?)?$/;
const dayOrMonthFirst = /^(\d{1,2})([./-])(\d{1,2})\2(\d{4}|\d{2})$/;

function isDate(text: string): boolean {
  const iso = yearFirst.exec(text);
  if (iso) return Number(iso[2]) >= 1 && Number(iso[2]) <= 12 && Number(iso[3]) >= 1 && Number(iso[3]) <= 31;
  const short = dayOrMonthFirst.exec(text);
  if (!short) return false;
  const [one, other] = [Number(short[1]), Number(short[3])];
  return Math.min(one, other) >= 1 && Math.min(one, other) <= 12 && Math.max(one, other) <= 31;
}

function isJson(text: string): boolean {
  if (!/^[[{]/.test(text)) return false;
  try {
    JSON.parse(text);
    return true;
  } catch {
    return false;
  }
}

/** What a text reads as; null where it is empty. */
export function kindOfText(text: string): FieldKind | null {
  const trimmed = text.trim();
  if (trimmed === "") return null;
  if (trimmed.length <= longestValue) {
    if (isDate(trimmed)) return "date";
    if (numberPattern.test(trimmed)) return "number";
  }
  return isJson(trimmed) ? "JSON" : "text";
}

/** What each field reads as, several texts of one as what all of them do; fields that are empty are left out. */
export function kindsOfFields(
  fields: Readonly<Record<string, string | readonly string[]>>,
): readonly (readonly [name: string, kind: FieldKind])[] {
  return Object.entries(fields).flatMap(([name, value]) => {
    const kinds = new Set((typeof value === "string" ? [value] : value).flatMap((text) => kindOfText(text) ?? []));
    const [only, ...others] = kinds;
    return only === undefined ? [] : [[name, others.length === 0 ? only : "text"] as const];
  });
}
