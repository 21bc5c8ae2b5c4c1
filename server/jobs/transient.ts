/** Which failures pass by themselves. */
import { Failure } from "@larder/core/model/failure";

const transientCodes = new Set([
  "ECONNREFUSED",
  "ECONNRESET",
  "EPIPE",
  "57P01",
  "57P03",
  "53300",
  "40001",
  "40P01",
  "25P03",
]);

/** True for what passes by itself: the database was away, or two transactions met. */
export function isTransient(error: unknown): boolean {
  if (!(error instanceof Error) || error instanceof Failure) return false;
  const { code, cause, message } = error as Error & { code?: string };
  return (
    (code !== undefined && transientCodes.has(code)) ||
    /connection (terminated|timeout)/i.test(message) ||
    (cause !== undefined && isTransient(cause))
  );
}
