import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { runsFromBytes, runsToBytes } from "./run-bytes";

describe("runs as bytes", () => {
  it("are LEB128, as the examples of the DWARF standard (section 7.6) have it", () => {
    expect([...runsToBytes([2, 127, 128, 129, 12857])]).toEqual([2, 127, 0x80, 1, 0x81, 1, 0xb9, 0x64]);
    expect(runsFromBytes(Uint8Array.of(0xb9, 0x64, 0))).toEqual([12857, 0]);
  });
  it("come back as they were, whatever they are", () => {
    fc.assert(
      fc.property(fc.array(fc.oneof(fc.nat(300), fc.maxSafeNat())), (counts) => {
        expect(runsFromBytes(runsToBytes(counts))).toEqual(counts);
      }),
    );
  });
  it("that are cut off or too large are none", () => {
    expect(runsFromBytes(Uint8Array.of(1, 0x80))).toBeNull();
    expect(runsFromBytes(new Uint8Array(9).fill(0xff))).toBeNull();
  });
});
