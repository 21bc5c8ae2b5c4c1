import { Piscina } from "piscina";
import { programFile, type ProgramName } from "./program-file";

/** Runs one task of a thread's program in a thread that is started for it and ends with it; `signal` ends it before. */
export async function inOwnThread<A, R>(program: ProgramName, task: string, argument: A, signal?: AbortSignal | null) {
  const threads = new Piscina<A, R>({ filename: programFile(program), name: task, maxThreads: 1, atomics: "disabled" });
  try {
    return await threads.run(argument, signal ? { signal } : {});
  } finally {
    await threads.destroy();
  }
}
