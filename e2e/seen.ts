import type { Locator } from "playwright-core";

/** The first element of what is looked for, once it can be seen. */
export async function seen(locator: Locator): Promise<Locator> {
  await locator.first().waitFor();
  return locator.first();
}
