import type { Page } from "playwright-core";

/** Holds back what a page asks for at addresses of a pattern, by a method, until it is let go of. */
export async function holdRequests(page: Page, pattern: RegExp, method: string): Promise<() => void> {
  let release = () => {};
  const gate = new Promise<void>((resolve) => (release = resolve));
  await page.route(pattern, async (route) => {
    if (route.request().method() === method) await gate;
    await route.continue();
  });
  return release;
}
