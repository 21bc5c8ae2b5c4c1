import { openBrowser } from "./browser";
const { context, close } = await openBrowser();
const page = await context.newPage();
await page.setViewportSize({ width: 1280, height: 800 });
const base = "http://127.0.0.1:4600";
for (const [n, url] of process.argv.slice(2).entries()) {
  await page.goto(base + url);
  await page.waitForTimeout(2500);
  await page.screenshot({ path: `/tmp/s${n}.png` });
}
await close();
