/** How a plan writes numbers: shares as `30%` or 0.3, ranges as `[low, high]` with the low end first. */
import { z } from "zod";

const percent = /^\s*([+-]?\d+(?:\.\d+)?)\s*%\s*$/;

/** A number as the plan may write it: itself, or a percentage as the share that it means; null where it is neither. */
export function readNumber(value: unknown, unit: "share" | "plain"): number | null {
  if (typeof value === "number") return Number.isFinite(value) ? value : null;
  const match = unit === "share" && typeof value === "string" ? percent.exec(value) : null;
  return match ? Number((Number(match[1]) / 100).toPrecision(15)) : null;
}

export type Limits = { min: number; max: number; whole?: boolean; unit?: "share" | "plain" };

const written = (value: number, unit: Limits["unit"]) =>
  unit === "share" ? `${Number((value * 100).toPrecision(12))}%` : String(value);

/** What is right for a number, in words. */
export function limitsText({ min, max, whole = false, unit = "plain" }: Limits): string {
  const kind = unit === "share" ? "a share" : whole ? "a whole number" : "a number";
  const example = unit === "share" ? ", written 30% or 0.3" : "";
  return `${kind} from ${written(min, unit)} to ${written(max, unit)}${example}`;
}

/** The number, or what is wrong with it. */
function checkedNumber(value: unknown, limits: Limits): number | string {
  const number = readNumber(value, limits.unit ?? "plain");
  const right = `It takes ${limitsText(limits)}.`;
  if (value === undefined) return `It is missing. ${right}`;
  if (number === null)
    return `${JSON.stringify(value)} is no ${limits.unit === "share" ? "share" : "number"}. ${right}`;
  if (limits.whole && !Number.isInteger(number)) return `${number} is not whole. ${right}`;
  if (number < limits.min || number > limits.max) return `${JSON.stringify(value)} is out of range. ${right}`;
  return number;
}

/** One number within limits, both ends included. */
export function limited(limits: Limits): z.ZodType<number, unknown> {
  return z.unknown().transform((value, context) => {
    const number = checkedNumber(value, limits);
    if (typeof number === "number") return number;
    context.issues.push({ code: "custom", message: number, input: value });
    return z.NEVER;
  });
}

export const share = (min = 0, max = 1): z.ZodType<number, unknown> => limited({ min, max, unit: "share" });
export const whole = (min: number, max: number): z.ZodType<number, unknown> => limited({ min, max, whole: true });

export type Range = readonly [low: number, high: number];

/** A number, or a range of two with the lower one first. */
export function rangeWithin(limits: Limits): z.ZodType<number | Range, unknown> {
  return z.unknown().transform((value, context) => {
    const fail = (message: string) => {
      context.issues.push({ code: "custom", message, input: value });
      return z.NEVER;
    };
    if (!Array.isArray(value)) {
      const number = checkedNumber(value, limits);
      return typeof number === "number" ? number : fail(number);
    }
    if (value.length !== 2) return fail(`A range has two ends, [low, high]. Each is ${limitsText(limits)}.`);
    const [low, high] = [checkedNumber(value[0], limits), checkedNumber(value[1], limits)];
    if (typeof low === "string") return fail(low);
    if (typeof high === "string") return fail(high);
    if (low > high) return fail(`The range begins at ${low} and ends at ${high}. Write the lower end first.`);
    return [low, high] as const;
  });
}
