import { openBrowser } from "./browser";
const browser = await openBrowser();
const page = await browser.context.newPage();
await page.goto("http://127.0.0.1:4600/c/1/bench?where=has+roll");
await page.getByRole("status").getByText("Saved").waitFor();
await page.waitForTimeout(3000);
const watch = `new Promise((resolve) => {
    let began = 0; const marks = {};
    const url = location.pathname; const name = document.querySelector("h1").textContent; const src = document.querySelector("[role=application] img").src;
    window.addEventListener("keydown", () => (began = performance.now()), { once: true, capture: true });
    const look = () => {
      const t = Math.round(performance.now() - began);
      if (began > 0) {
        if (location.pathname !== url) marks.url ??= t;
        const h1 = document.querySelector("h1")?.textContent;
        if (h1 !== name) marks[h1 ? "h1" : "loading"] ??= t;
        const picture = document.querySelector("[role=application] img");
        if (picture && picture.src !== src) { marks.src ??= t; if (picture.complete) { marks.complete = t; resolve(JSON.stringify(marks)); return; } }
      }
      requestAnimationFrame(look);
    };
    look();
  })`;
for (let n = 0; n < 6; n++) {
  const time = page.evaluate(watch);
  await page.keyboard.press("PageDown");
  console.log(await Promise.race([time, page.waitForTimeout(4000)]), page.url());
  await page.waitForTimeout(2500);
}
await browser.close();
