import { expect, it } from "vitest";
import { parseSettings } from "./settings";

it("has defaults that keep to this machine", () => {
  expect(parseSettings({})).toMatchObject({
    host: "127.0.0.1",
    port: 4600,
    jobsAtOnce: 2,
    databaseUrl: undefined,
    databaseSync: true,
  });
});

it("reads numbers and units", () => {
  const settings = parseSettings({
    LARDER_PORT: "80",
    LARDER_MAX_ENTRY_MB: "1.5",
    LARDER_MAX_MEGAPIXELS: "50",
    LARDER_DEMO_SHARE: "0",
    LARDER_HOME: "relative",
  });
  expect(settings).toMatchObject({ port: 80, demoShare: 0, limits: { entryBytes: 1_572_864, pixels: 50_000_000 } });
  expect(settings.home.startsWith("/")).toBe(true);
});

it("names the setting that does not fit", () => {
  expect(() => parseSettings({ LARDER_PORT: "http" })).toThrow(/LARDER_PORT/);
  expect(() => parseSettings({ LARDER_JOBS_AT_ONCE: "0" })).toThrow(/LARDER_JOBS_AT_ONCE/);
  expect(() => parseSettings({ LARDER_DATABASE_SYNC: "never" })).toThrow(/LARDER_DATABASE_SYNC/);
});

it("knows the folders, buckets and addresses that deliveries may come from", () => {
  expect(parseSettings({ LARDER_HOME: "/srv/larder" })).toMatchObject({
    folders: [{ name: "incoming", place: "/srv/larder/incoming" }],
    buckets: [{ name: "Millrace store", endpoint: "http://127.0.0.1:4610" }],
    addresses: { allowed: ["*", "127.0.0.1:4610"], timeout: 60_000 },
  });
  expect(parseSettings({ LARDER_DEMO_SHARE: "0" }).addresses.allowed).toEqual(["*"]);
  const stores = [{ name: "Rack store", bucket: "racks", accessKeyId: "k", secretAccessKey: "s" }];
  const settings = parseSettings({
    LARDER_FOLDERS: "/data/in:/data/out:",
    LARDER_BUCKETS: JSON.stringify(stores),
    LARDER_ADDRESSES_ALLOWED: "example.org, *.cdn.example",
    LARDER_MAX_FETCH_MB: "2",
    LARDER_FETCH_SECONDS: "5",
  });
  expect(settings).toMatchObject({
    folders: [
      { name: "in", place: "/data/in" },
      { name: "out", place: "/data/out" },
    ],
    buckets: [{ ...stores[0], region: "us-east-1" }],
    addresses: { allowed: ["example.org", "*.cdn.example"], maxBytes: 2_097_152, timeout: 5000 },
  });
  for (const bad of ["not json", "[{}]", '{"name": "x"}'])
    expect(() => parseSettings({ LARDER_BUCKETS: bad })).toThrow(/LARDER_BUCKETS/);
});
