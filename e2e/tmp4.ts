import { openBrowser } from "./browser";
const browser = await openBrowser();
const page = await browser.context.newPage();
await page.goto("http://127.0.0.1:4600/c/1/bench?where=has+roll");
await page.getByRole("status").getByText("Saved").waitFor();
await page.waitForTimeout(3000);
await page.getByRole("application").focus();
await page.keyboard.press("8");
for (let round = 0; round < 2; round++) {
  await page.mouse.move(300, 300 + 60 * round);
  await page.mouse.down();
  for (let n = 0; n < 60; n++) {
    await page.mouse.move(300 + 4 * n, 300 + 60 * round + 20 * Math.sin(n / 10));
    await page.waitForTimeout(10);
  }
  const client = await page.context().newCDPSession(page);
  await client.send("Profiler.enable");
  await client.send("Profiler.setSamplingInterval", { interval: 200 });
  await client.send("Profiler.start");
  await page.mouse.up();
  await page.waitForTimeout(800);
  const { profile } = await client.send("Profiler.stop");
  const self = new Map<number, number>();
  profile.samples!.forEach((id, i) => self.set(id, (self.get(id) ?? 0) + (profile.timeDeltas![i] ?? 0) / 1000));
  const byId = new Map(profile.nodes.map((n) => [n.id, n]));
  const parent = new Map<number, number>();
  for (const n of profile.nodes) for (const c of n.children ?? []) parent.set(c, n.id);
  const total = new Map<string, number>();
  for (const [id, ms] of self) {
    const seen = new Set<string>();
    for (let at: number | undefined = id; at !== undefined; at = parent.get(at)) {
      const f = byId.get(at)!.callFrame;
      const key = `${f.functionName || "anon"} ${f.url.split("/").pop()}:${f.lineNumber}:${f.columnNumber}`;
      if (!seen.has(key)) {
        seen.add(key);
        total.set(key, (total.get(key) ?? 0) + ms);
      }
    }
  }
  console.log(
    [...total]
      .sort((a, b) => b[1] - a[1])
      .slice(0, 45)
      .map(([k, v]) => `${v.toFixed(1)} ${k}`)
      .join("\n"),
  );
  await client.detach();
}
await browser.close();
