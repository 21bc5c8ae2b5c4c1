/** How numbers, sizes and times are said. */
const whole = new Intl.NumberFormat("en-US");

export function number(value: number): string {
  return whole.format(value);
}

/** "1 image", "2 images", "1,204 images". */
export function count(value: number, one: string, many = `${one}s`): string {
  return `${whole.format(value)} ${value === 1 ? one : many}`;
}

export function bytes(value: number): string {
  const units = ["bytes", "kB", "MB", "GB", "TB"];
  let unit = 0;
  let rest = value;
  while (rest >= 1000 && unit < units.length - 1) {
    rest /= 1000;
    unit++;
  }
  return unit === 0
    ? `${whole.format(value)} bytes`
    : `${rest >= 100 ? Math.round(rest) : rest.toFixed(1)} ${units[unit]}`;
}

export function duration(seconds: number): string {
  if (!Number.isFinite(seconds) || seconds < 0) return "";
  if (seconds < 1) return "under a second";
  if (seconds < 90) return `${Math.round(seconds)} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return `${(seconds / 3600).toFixed(1)} h`;
}

export function day(iso: string | Date): string {
  return new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short" });
}

export function dayAndTime(iso: string | Date): string {
  return new Date(iso).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
}
