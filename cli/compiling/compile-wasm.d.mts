/** What is compiled, by the name of its source in core/wasm/assembly. */
export const modules: readonly ("fused" | "features" | "hashes")[];
/** The bytes of a compiled module. Throws what the compiler says. */
export function compileModule(name: "fused" | "features" | "hashes"): Promise<Uint8Array>;
