import type { NumberParameter, Parameter } from "@larder/core/imaging/ops/op";

/** How a parameter's numbers are shown: as what they are, or a share as a percentage. */
export type Shown = { factor: number; unit: string; step: number; min: number; max: number };

const units: Record<NumberParameter["unit"], string> = {
  share: "%",
  degrees: "°",
  pixels: "px",
  stops: "stops",
  bits: "bits",
  times: "×",
  level: "",
  "": "",
};

export function shownAs({ unit, min, max, whole }: NumberParameter): Shown {
  const factor = unit === "share" ? 100 : 1;
  const span = (max - min) * factor;
  const fine = span <= 10 ? 0.1 : span <= 1 ? 0.01 : 1;
  return { factor, unit: units[unit], step: whole ? 1 : fine, min: min * factor, max: max * factor };
}

const at = (value: number, { factor }: Shown) => Number((value * factor).toFixed(3)).toLocaleString("en-US");

/** A parameter's value in words: `−15 to 15°`. */
export function valueWords(parameter: Parameter, value: unknown): string {
  if (parameter.kind === "number") {
    const shown = shownAs(parameter);
    const text = Array.isArray(value)
      ? `${at(value[0] as number, shown)} to ${at(value[1] as number, shown)}`
      : at(value as number, shown);
    return `${text}${shown.unit}`;
  }
  if (Array.isArray(value))
    return value.length === 0
      ? "all"
      : value.map((entry) => (typeof entry === "object" ? (entry as { op: string }).op : String(entry))).join(", ");
  return String(value);
}
