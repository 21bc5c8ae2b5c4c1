/** Where the programs and threads lie that Larder starts beside itself: compiled, so that they start at once. */
import path from "node:path";
import { settings } from "./settings";

/** Those of cli/compiling/compile-programs.mjs. */
export type ProgramName =
  | "larder"
  | "supervise"
  | "serve"
  | "worker"
  | "stand-in"
  | "draw-demo"
  | "read-pdf"
  | "hash-file-thread"
  | "write-files-thread"
  | "render-thread"
  | "snapshot-thread"
  | "features-thread"
  | "counting-thread"
  | "checks-thread"
  | "measure";

/** The compiled file of a program; what runs is bundled in several ways, so it is found from Larder's own folder. */
export const programFile = (name: ProgramName): string => path.join(settings().root, ".compiled", `${name}.mjs`);
