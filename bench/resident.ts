import { readFileSync } from "node:fs";

/** Megabytes of a process that are resident now, or were at most so far (proc(5): VmRSS, VmHWM); 0 where it is gone. */
export function residentMegabytes(pid: number, field: "VmRSS" | "VmHWM"): number {
  try {
    const status = readFileSync(`/proc/${pid}/status`, "utf8");
    return Number(new RegExp(`${field}:\\s+(\\d+) kB`).exec(status)?.[1] ?? 0) / 1024;
  } catch {
    return 0;
  }
}
