import { execFileSync } from "node:child_process";
import { programFile } from "@larder/server/program-file";

export type Measured = { seconds: number; megabytes: number };

/** Does one thing of measure.ts in a process of its own. */
export function measured(what: string, ...words: string[]): Measured {
  // The commands run as the entry script starts them.
  const flags = what === "inspect" || what === "convert" ? ["--max-semi-space-size=64"] : [];
  const out = execFileSync(process.execPath, [...flags, programFile("measure"), what, ...words], {
    encoding: "utf8",
    maxBuffer: 1 << 24,
    stdio: ["ignore", "pipe", "inherit"],
  });
  return JSON.parse(out.trim().split("\n").pop() ?? "{}") as Measured;
}
