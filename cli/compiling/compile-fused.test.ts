import { fusedBytes } from "@larder/core/imaging/wasm/fused-bytes";
import { expect, it } from "vitest";
import { compileFused } from "./compile-fused.mjs";

it("the fused pass is what its source compiles to", async () => {
  expect(Buffer.from(await compileFused()).toString("base64")).toBe(fusedBytes);
});
