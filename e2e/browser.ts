import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { chromium, type BrowserContext } from "playwright-core";

const flags = [
  "--no-sandbox",
  "--disable-gpu",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
];

/** Debian's Chromium with a new profile, at the size of a small laptop. Close with the returned function. */
export async function openBrowser({ width = 1280, height = 800, dark = false } = {}): Promise<{
  context: BrowserContext;
  close: () => Promise<void>;
}> {
  const profile = mkdtempSync(path.join(tmpdir(), "larder-chromium-"));
  const context = await chromium.launchPersistentContext(profile, {
    executablePath: "/usr/bin/chromium",
    headless: true,
    args: flags,
    viewport: { width, height },
    colorScheme: dark ? "dark" : "light",
    acceptDownloads: true,
    reducedMotion: "reduce",
  });
  return {
    context,
    close: async () => {
      await context.close();
      rmSync(profile, { recursive: true, force: true, maxRetries: 3 });
    },
  };
}
