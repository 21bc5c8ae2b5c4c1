import { describe, expect, it } from "vitest";
import { openJob, progressWords } from "./open-job";

type Jobs = NonNullable<Parameters<typeof openJob>[0]>;
const job = (kind: string, subject: number, status: string) =>
  ({ kind, subject, status, message: "Making the images", done: 12, total: 1400 }) as Jobs[number];

describe("the job that is open on something", () => {
  it("waits, runs or is paused, and is of its kind: one that failed or ended is none", () => {
    for (const status of ["queued", "running", "paused"])
      expect(openJob([job("build-version", 7, status)], ["build-version"], 7)?.status).toBe(status);
    for (const status of ["done", "failed", "stopped"])
      expect(openJob([job("build-version", 7, status)], ["build-version"], 7)).toBeUndefined();
    expect(openJob([job("pack", 7, "running")], ["build-version"], 7)).toBeUndefined();
    expect(openJob([job("build-version", 8, "running")], ["build-version"], 7)).toBeUndefined();
    expect(openJob(undefined, ["build-version"], 7)).toBeUndefined();
  });
  it("says what it does and how far it is, where that is known", () => {
    expect(progressWords(job("build-version", 7, "running"))).toBe("Making the images: 12 of 1,400");
    expect(progressWords({ message: "", done: 0, total: 0 })).toBe("Waiting for its turn");
    expect(progressWords(undefined)).toBe("Waiting for its turn");
  });
});
