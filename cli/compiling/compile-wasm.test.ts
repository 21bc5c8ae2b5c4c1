import { fusedBytes } from "@larder/core/wasm/fused-bytes";
import { hashesBytes } from "@larder/core/wasm/hashes-bytes";
import { featuresBytes } from "@larder/core/wasm/features-bytes";
import { expect, it } from "vitest";
import { compileModule, modules } from "./compile-wasm.mjs";

const compiled = { fused: fusedBytes, features: featuresBytes, hashes: hashesBytes };

it.each(modules)("%s is what its source compiles to", async (name) => {
  expect(Buffer.from(await compileModule(name)).toString("base64")).toBe(compiled[name]);
});
