import { execFileSync } from "node:child_process";
import { fileURLToPath } from "node:url";

export type Measured = { seconds: number; megabytes: number };

/** Does one thing of measure.ts in a process of its own. */
export function measured(what: string, ...words: string[]): Measured {
  const script = fileURLToPath(new URL("./measure.ts", import.meta.url));
  const out = execFileSync(process.execPath, ["--import", "tsx", script, what, ...words], { encoding: "utf8", maxBuffer: 1 << 24, stdio: ["ignore", "pipe", "inherit"] });
  return JSON.parse(out.trim().split("\n").pop() ?? "{}") as Measured;
}
