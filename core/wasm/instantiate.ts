/** The part of WebAssembly's interface that is used, which core's own types leave out. */
type Assembly = {
  Module: new (bytes: Uint8Array) => object;
  Instance: new (module: object) => { exports: unknown };
};

/** What every compiled module has: its memory, and how to make room for so many bytes in all. */
export type Memory = { memory: { buffer: ArrayBuffer }; reserve: (bytes: number) => void };

/** Where what is put into a module's memory begins: before it lies what the compiler puts there. */
export const firstByte = 65_536;

const modules = new Map<string, object>();

/** A fresh instance of a compiled module, given in base64; its exports. */
export function instantiate<T extends Memory>(bytes: string): T {
  const { Module, Instance } = (globalThis as unknown as { WebAssembly: Assembly }).WebAssembly;
  const known = modules.get(bytes) ?? new Module(Uint8Array.from(atob(bytes), (sign) => sign.charCodeAt(0)));
  modules.set(bytes, known);
  return new Instance(known).exports as T;
}
