import { sha256 as inScript } from "@noble/hashes/sha2.js";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { hexOf, incrementalSha256, sha256, sha256OfText } from "./sha256";

describe("SHA-256", () => {
  it("gives what FIPS 180-4 gives for its examples", () => {
    const text = (words: string) => hexOf(sha256(new TextEncoder().encode(words)));
    expect(text("abc")).toBe("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
    expect(text("")).toBe("e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855");
  });
  it("is the same by the runtime and in script, whole or piece by piece", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), fc.nat(300), (bytes, cut) => {
        const hasher = incrementalSha256();
        hasher.update(bytes.subarray(0, cut));
        hasher.update(bytes.subarray(cut));
        expect(hexOf(hasher.digest())).toBe(hexOf(inScript(bytes)));
        expect(sha256OfText(String(bytes))).toBe(hexOf(inScript(new TextEncoder().encode(String(bytes)))));
        expect(hexOf(sha256(bytes))).toBe(hexOf(inScript(bytes)));
      }),
    );
  });
});
