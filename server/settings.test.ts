import { expect, it } from "vitest";
import { parseSettings } from "./settings";

it("has defaults that keep to this machine", () => {
  expect(parseSettings({})).toMatchObject({ host: "127.0.0.1", port: 4600, jobsAtOnce: 2, databaseUrl: undefined });
});

it("reads numbers and units", () => {
  const settings = parseSettings({ LARDER_PORT: "80", LARDER_MAX_ENTRY_MB: "1.5", LARDER_MAX_MEGAPIXELS: "50", LARDER_DEMO_SHARE: "0", LARDER_HOME: "relative" });
  expect(settings).toMatchObject({ port: 80, demoShare: 0, limits: { entryBytes: 1_572_864, pixels: 50_000_000 } });
  expect(settings.home.startsWith("/")).toBe(true);
});

it("names the setting that does not fit", () => {
  expect(() => parseSettings({ LARDER_PORT: "http" })).toThrow(/LARDER_PORT/);
  expect(() => parseSettings({ LARDER_JOBS_AT_ONCE: "0" })).toThrow(/LARDER_JOBS_AT_ONCE/);
});
