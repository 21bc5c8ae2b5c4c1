import { describe, expect, it } from "vitest";
import { Findings } from "../model/finding";
import { reportUntakenFiles, untakenKindOfBytes, untakenText } from "./untaken-kinds";

const box = (brand: string, compatible = "") => new TextEncoder().encode(`\0\0\0\x18ftyp${brand}\0\0\0\0${compatible}`);

describe("files that hold pictures but cannot be read", () => {
  it("are named by their extension, with what to do", () => {
    const report = new Findings();
    expect(reportUntakenFiles(["a.HEIC", "b/c.mov", "d.jpg", "e.txt", "f.dng"], report)).toBe(3);
    expect(report.list()[0]).toMatchObject({ code: "file-not-taken", count: 3 });
    expect(report.list()[0]?.examples[0]).toBe(
      "a.HEIC: it is HEIC, which Larder does not read; convert it to JPEG or PNG first",
    );
    expect(untakenText(["x.txt"])).toBeNull();
    expect(untakenText(["x.mp4"])).toContain("it is a video");
  });
  it("are told by their bytes from those that can", () => {
    expect(untakenKindOfBytes(box("heic"))?.is).toBe("HEIC");
    expect(untakenKindOfBytes(box("mif1", "heic"))?.is).toBe("HEIC");
    expect(untakenKindOfBytes(box("mp42"))?.is).toBe("a video");
    expect(untakenKindOfBytes(box("qt  "))?.is).toBe("a video");
    expect(untakenKindOfBytes(box("avif"))).toBeNull();
    expect(untakenKindOfBytes(box("mif1", "avif"))).toBeNull();
    expect(untakenKindOfBytes(Uint8Array.of(0xff, 0xd8, 0xff, 0xe0))).toBeNull();
    expect(untakenKindOfBytes(Uint8Array.of(0x1a, 0x45, 0xdf, 0xa3))?.is).toBe("a video");
  });
});
