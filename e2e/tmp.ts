import { openBrowser } from "./browser";
const browser = await openBrowser(); const page = await browser.context.newPage();
page.on("console", (m) => m.type() === "error" && console.log("console:", m.text().slice(0, 300)));
page.on("pageerror", (e) => console.log("pageerror:", e.message.slice(0, 300)));
const base = "http://127.0.0.1:4600";
const shots = process.argv.slice(2);
for (const shot of shots) {
  const [name, path, ...acts] = shot.split("|");
  if (path) { await page.goto(base + path); await page.waitForLoadState("networkidle").catch(() => undefined); }
  for (const act of acts) {
    const [verb, ...rest] = act.split(":"); const arg = rest.join(":");
    if (verb === "click") await page.getByRole("button", { name: arg }).first().click();
    if (verb === "tab") await page.getByRole("tab", { name: arg }).first().click();
    if (verb === "label") { const [l, v] = arg.split("="); await page.getByLabel(l!, { exact: true }).first().fill(v!); await page.keyboard.press("Enter"); }
    if (verb === "text") await page.getByText(arg).first().click();
    if (verb === "key") await page.keyboard.press(arg);
    if (verb === "wait") await page.waitForTimeout(Number(arg));
    if (verb === "select") { const [l, v] = arg.split("="); await page.getByLabel(l!, { exact: true }).first().selectOption(v!); }
  }
  await page.waitForTimeout(1200);
  await page.screenshot({ path: `/tmp/b/${name}.png` });
}
await browser.close();
