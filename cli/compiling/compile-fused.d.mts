/** The bytes of the compiled pass. Throws what the compiler says. */
export function compileFused(): Promise<Uint8Array>;
