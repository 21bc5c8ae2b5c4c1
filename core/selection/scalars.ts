/** What a written value is: a number, a moment, yes or no. */
import type { Scalar } from "./tree";

const number = /^[+-]?(?:\d+\.?\d*|\.\d+)(%?)$/;
/** What is longer is no number that somebody counted or measured. */
const longestNumber = 40;

/** The number that a text reads as, a percentage divided by a hundred; null where it reads as none. */
export function numberIn(text: string): number | null {
  const match = text.length > longestNumber ? null : number.exec(text);
  if (!match) return null;
  return match[1] === "%" ? Number(text.slice(0, -1)) / 100 : Number(text);
}

/** The number a value is; null where it is none, or stands in quotes. */
export const asNumber = ({ text, quoted }: Scalar) => (quoted ? null : numberIn(text));

const date = /^((?!00)\d{4})-(\d\d)-(\d\d)(?:T(\d\d):(\d\d)(?::(\d\d))?Z?)?$/;

/** A stretch of time in milliseconds since 1970, UTC: from `from` up to, but not including, `to`. */
export type Moment = { from: number; to: number };

const second = 1000;
const minute = 60 * second;
const day = 24 * 60 * minute;

/**
 * The day, minute or second that a text names (ISO 8601, UTC): a date alone is the whole day. Null where it names none,
 * as 2026-02-30 does.
 */
export function momentIn(text: string): Moment | null {
  const match = date.exec(text);
  if (!match) return null;
  const [year, month, dayOfMonth, hours, minutes, seconds] = match.slice(1).map((part) => Number(part ?? 0)) as [
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const from = Date.UTC(year, month - 1, dayOfMonth, hours, minutes, seconds);
  const made = new Date(from);
  const same =
    made.getUTCFullYear() === year &&
    made.getUTCMonth() === month - 1 &&
    made.getUTCDate() === dayOfMonth &&
    made.getUTCHours() === hours &&
    made.getUTCMinutes() === minutes &&
    made.getUTCSeconds() === seconds;
  if (!same) return null;
  return { from, to: from + (match[6] !== undefined ? second : match[4] !== undefined ? minute : day) };
}

export const asMoment = ({ text, quoted }: Scalar) => (quoted ? null : momentIn(text));

/** Yes or no; null where a text is neither. */
export function truthIn(text: string): boolean | null {
  return text === "yes" ? true : text === "no" ? false : null;
}
