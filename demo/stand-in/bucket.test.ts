import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { startStandIn, type StandIn } from "./bucket";

let folder: string;
let store: StandIn;
const signed = {
  authorization: "AWS4-HMAC-SHA256 Credential=millrace/20261101/us-east-1/s3/aws4_request, Signature=unchecked",
};
const ask = (address: string, headers: Record<string, string> = signed) =>
  fetch(`${store.url}${address}`, { headers, redirect: "manual" });
const keys = (xml: string) => [...xml.matchAll(/<Key>(.*?)<\/Key>/g)].map((match) => match[1]);

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "larder-stand-in-"));
  for (const key of [
    "a/1.jpg",
    "a/2 & 3.jpg",
    "a/b/4.jpg",
    "top.txt",
    ...Array.from({ length: 30 }, (_, n) => `many/${String(n).padStart(2, "0")}.txt`),
  ]) {
    mkdirSync(path.dirname(path.join(folder, "store", key)), { recursive: true });
    writeFileSync(path.join(folder, "store", key), key.repeat(20));
  }
  writeFileSync(path.join(folder, "outside.txt"), "not in a bucket");
  store = await startStandIn(folder);
});
afterAll(async () => {
  await store.close();
  rmSync(folder, { recursive: true });
});
beforeEach(() => {
  Object.assign(store.faults, { slow: 0, busyEvery: 0, cutEvery: 0 });
});

describe("listing", () => {
  it("gives keys below a prefix, or one level of them", async () => {
    expect(keys(await (await ask("/store?list-type=2&prefix=a/")).text())).toEqual([
      "a/1.jpg",
      "a/2 &amp; 3.jpg",
      "a/b/4.jpg",
    ]);
    const level = await (await ask("/store?list-type=2&delimiter=/")).text();
    expect(keys(level)).toEqual(["top.txt"]);
    expect([...level.matchAll(/<CommonPrefixes><Prefix>(.+?)<\/Prefix>/g)].map((match) => match[1])).toEqual([
      "a/",
      "many/",
    ]);
  });
  it("goes on page by page, every key once", async () => {
    const found: (string | undefined)[] = [];
    let token = "";
    for (;;) {
      const xml = await (
        await ask(
          `/store?list-type=2&prefix=many/&max-keys=7${token === "" ? "" : `&continuation-token=${encodeURIComponent(token)}`}`,
        )
      ).text();
      found.push(...keys(xml));
      if (!xml.includes("<IsTruncated>true")) break;
      token = /<NextContinuationToken>(.*?)</.exec(xml)?.[1] ?? "";
    }
    expect(found).toEqual(Array.from({ length: 30 }, (_, n) => `many/${String(n).padStart(2, "0")}.txt`));
  });
  it("is refused without its key, and says what is not there", async () => {
    expect((await ask("/store?list-type=2", {})).status).toBe(403);
    expect(await (await ask("/nothing?list-type=2")).text()).toContain("NoSuchBucket");
    expect((await ask("/store/missing.jpg")).status).toBe(404);
    expect((await ask("/store/..%2Foutside.txt")).status).toBe(404);
  });
});

describe("objects", () => {
  it("come whole, in ranges, and only if they are what they were", async () => {
    const whole = await ask("/store/a/1.jpg");
    const text = await whole.text();
    expect(text).toBe("a/1.jpg".repeat(20));
    const part = await ask("/store/a/1.jpg", { ...signed, range: "bytes=7-13" });
    expect([part.status, await part.text(), part.headers.get("content-range")]).toEqual([
      206,
      "a/1.jpg",
      "bytes 7-13/140",
    ]);
    expect((await ask("/store/a/1.jpg", { ...signed, range: "bytes=900-" })).status).toBe(416);
    expect((await ask("/store/a/1.jpg", { ...signed, "if-match": whole.headers.get("etag") ?? "" })).status).toBe(200);
    expect((await ask("/store/a/1.jpg", { ...signed, "if-match": '"other"' })).status).toBe(412);
  });
  it("also lie at plain addresses, some of which send on", async () => {
    expect(await (await ask("/pictures/store/top.txt", {})).text()).toBe("top.txt".repeat(20));
    expect((await ask("/moved/store/a/1.jpg", {})).headers.get("location")).toBe("/pictures/store/a/1.jpg");
    expect((await ask("/elsewhere", {})).headers.get("location")).toContain("169.254");
  });
  it("are slow, refused or cut off when asked to misbehave", async () => {
    store.faults.slow = 120;
    const began = performance.now();
    await (await ask("/store/top.txt")).text();
    expect(performance.now() - began).toBeGreaterThan(100);
    Object.assign(store.faults, { slow: 0, busyEvery: 1 });
    expect((await ask("/store/top.txt")).status).toBe(503);
    Object.assign(store.faults, { busyEvery: 0, cutEvery: 1 });
    await expect(ask("/store/top.txt").then((response) => response.text())).rejects.toThrow();
  });
});
