/** An error with a code for programs and a sentence a person can act on. */
export class Failure extends Error {
  override readonly name = "Failure";
  constructor(
    readonly code: string,
    message: string,
    readonly status = 400,
    /** What programs may want to know beside: it goes out with the answer. */
    readonly details?: Record<string, unknown>,
  ) {
    super(message);
  }
}

/** What a machine's own troubles are called to people; by the codes of POSIX and Node.js. */
const troubles: Record<string, { code: string; message: string }> = {
  ENOSPC: { code: "disk-full", message: "The disk is full. Free some space, then try again." },
  EDQUOT: { code: "disk-full", message: "The disk's share for Larder is full. Free some space, then try again." },
  EROFS: { code: "disk-read-only", message: "The disk cannot be written to. Make it writable, then try again." },
  EACCES: {
    code: "file-forbidden",
    message: "Larder may not read or write one of its files. Check their permissions.",
  },
  EMFILE: { code: "files-open", message: "Too many files are open at once. Try again in a moment." },
  ECONNREFUSED: { code: "database-away", message: "The database does not answer. Try again in a moment." },
};

/**
 * The sentence to show for anything thrown: a Failure's own, that of a trouble of the machine, or a plain one that tells
 * nothing of queries, values and paths. What it hides is for the log.
 */
export function sentenceFor(error: unknown): { code: string; message: string } {
  if (error instanceof Failure) return { code: error.code, message: error.message };
  for (let at: unknown = error, depth = 0; at instanceof Error && depth < 4; at = at.cause, depth++) {
    const { code } = at as { code?: unknown };
    if (typeof code === "string" && Object.hasOwn(troubles, code))
      return troubles[code] as { code: string; message: string };
  }
  return { code: "unexpected", message: "Something unexpected went wrong. Larder's log says what." };
}
