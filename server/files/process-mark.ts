/** A name for this process that no other has had, so that what it leaves behind when it is killed can be told. */
import { readFileSync } from "node:fs";
import { hostname } from "node:os";

/** When a process was started, in ticks since the machine was; null where it is gone. Source: proc(5), stat, field 22. */
function startOf(pid: number): string | null {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, "latin1");
    // The second field is the program's name in brackets, which may hold blanks.
    return stat.slice(stat.lastIndexOf(")") + 2).split(" ")[19] ?? null;
  } catch {
    return null;
  }
}

const host = hostname().replaceAll(/[^a-zA-Z0-9]/g, "") || "host";
let own: string | null = null;

/** This process's mark: fit for a file's name. */
export function processMark(): string {
  return (own ??= `${host}.${process.pid}.${startOf(process.pid) ?? "0"}`);
}

/** Whether a mark is that of a process of this machine that is gone; one of another machine is left to that one. */
export function isLeftBehind(mark: string): boolean {
  const [where, pid, start] = mark.split(".");
  return where === host && pid !== undefined && start !== undefined && startOf(Number(pid)) !== start;
}
