// What ./larder runs: the command, compiled anew where a source has changed since.
import { compilePrograms } from "./compiling/compile-programs.mjs";

await compilePrograms();
await import("../.compiled/larder.mjs");
