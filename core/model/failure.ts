/** An error with a code for programs and a sentence a person can act on. */
export class Failure extends Error {
  override readonly name = "Failure";
  constructor(
    readonly code: string,
    message: string,
    readonly status = 400,
    readonly details?: unknown,
  ) {
    super(message);
  }
}

/** The sentence to show for anything thrown: a Failure's own, or a plain one that hides internals. */
export function sentenceFor(error: unknown): { code: string; message: string } {
  if (error instanceof Failure) return { code: error.code, message: error.message };
  const code = (error as { code?: unknown } | null)?.code;
  if (code === "ENOSPC") return { code: "disk-full", message: "The disk is full. Free some space, then try again." };
  const message = error instanceof Error ? error.message : String(error);
  return { code: "unexpected", message: `Something unexpected went wrong: ${message}` };
}
