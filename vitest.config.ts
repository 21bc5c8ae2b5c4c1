import { defineConfig } from "vitest/config";

const alias = { "@": new URL("./web", import.meta.url).pathname };

export default defineConfig({
  test: {
    projects: [
      {
        resolve: { alias },
        test: {
          name: "unit",
          include: ["core/**/*.test.ts", "demo/**/*.test.ts", "web/**/*.test.{ts,tsx}", "cli/**/*.test.ts"],
          globalSetup: ["cli/compiling/before-tests.mjs"],
          testTimeout: 60_000,
          hookTimeout: 120_000,
        },
      },
      {
        resolve: { alias },
        test: {
          name: "service",
          include: ["server/**/*.test.ts"],
          testTimeout: 120_000,
          hookTimeout: 180_000,
          maxWorkers: 2,
          globalSetup: ["cli/compiling/before-tests.mjs", "server/tests/cluster.ts"],
          setupFiles: ["server/tests/fresh-database.ts"],
          pool: "forks",
        },
      },
      {
        resolve: { alias },
        test: {
          name: "browser",
          include: ["e2e/**/*.test.ts"],
          testTimeout: 180_000,
          hookTimeout: 300_000,
          // What a page shows after a moment is waited for as long as a slow machine takes.
          expect: { poll: { timeout: 20_000 } },
          fileParallelism: false,
          pool: "forks",
        },
      },
    ],
  },
});
