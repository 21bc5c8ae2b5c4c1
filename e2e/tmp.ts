import { openBrowser } from "./browser";
const browser = await openBrowser();
const page = await browser.context.newPage();
page.on("console", (m) => m.type() === "error" && console.log("console:", m.text().slice(0, 300)));
page.on("pageerror", (e) => console.log("pageerror:", e.message.slice(0, 300)));
const base = "http://127.0.0.1:4600";
const shots = process.argv.slice(2);
for (const shot of shots) {
  const [name, path, ...acts] = shot.split("|");
  if (path) {
    await page.goto(base + path);
    await page.waitForLoadState("networkidle").catch(() => undefined);
  }
  for (const act of acts) {
    const [verb, ...rest] = act.split(":");
    const arg = rest.join(":");
    if (verb === "click") await page.getByRole("button", { name: arg }).first().click();
    if (verb === "tab") await page.getByRole("tab", { name: arg }).first().click();
    if (verb === "label") {
      const [l, v] = arg.split("=");
      await page.getByLabel(l!, { exact: true }).first().fill(v!);
      await page.keyboard.press("Enter");
    }
    if (verb === "text") await page.getByText(arg).first().click();
    if (verb === "key") await page.keyboard.press(arg);
    if (verb === "item") await page.getByRole("menuitem", { name: arg }).first().click();
    if (verb === "radio") await page.getByRole("radio", { name: arg }).first().click();
    if (verb === "drag") {
      const [a, b, c, d] = arg.split(",").map(Number);
      await page.mouse.move(a!, b!);
      await page.mouse.down();
      await page.mouse.move((a! + c!) / 2, (b! + d!) / 2);
      await page.mouse.move(c!, d!);
      await page.mouse.up();
    }
    if (verb === "at") {
      const [a, b] = arg.split(",").map(Number);
      await page.mouse.click(a!, b!);
    }
    if (verb === "move") {
      const [a, b] = arg.split(",").map(Number);
      await page.mouse.move(a!, b!);
    }
    if (verb === "hold") {
      const n = arg.split(",").map(Number);
      await page.mouse.move(n[0]!, n[1]!);
      await page.mouse.down();
      for (let i = 2; i < n.length; i += 2) await page.mouse.move(n[i]!, n[i + 1]!, { steps: 8 });
    }
    if (verb === "up") await page.mouse.up();
    if (verb === "type") await page.keyboard.type(arg);
    if (verb === "wait") await page.waitForTimeout(Number(arg));
    if (verb === "select") {
      const [l, v] = arg.split("=");
      await page.getByLabel(l!, { exact: true }).first().selectOption(v!);
    }
  }
  await page.waitForTimeout(1200);
  await page.screenshot({ path: `/tmp/b/${name}.png` });
}
await browser.close();
