/** Hashes files; large ones in a thread, so that other work goes on meanwhile. */
import { stat } from "node:fs/promises";
import { Piscina } from "piscina";
import { programFile } from "../program-file";
import { hashFileNow } from "./hash-file-now";

/** Smaller files are hashed before a thread would have begun. */
const worthAThread = 16 << 20;

const shared = globalThis as { larderHashing?: Piscina<string, string> };

function start(): Piscina<string, string> {
  return new Piscina<string, string>({
    filename: programFile("hash-file-thread"),
    name: "hashFileNow",
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: 10_000,
    atomics: "disabled",
  });
}

/** The SHA-256 of a file's bytes in hexadecimal digits. Throws where it cannot be read. */
export async function hashFile(file: string): Promise<string> {
  const { size } = await stat(file);
  return size < worthAThread ? hashFileNow(file) : (shared.larderHashing ??= start()).run(file);
}
