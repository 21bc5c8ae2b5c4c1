/** `./larder test`: types, lint, import arrows, then every suite; the last line sums them up. */
import { spawn, spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { z } from "zod";
import { buildWeb } from "../running/build-web";

const reportSchema = z.object({
  numPassedTests: z.number(),
  numFailedTests: z.number(),
  numFailedTestSuites: z.number(),
  success: z.boolean(),
  testResults: z.array(
    z.object({
      name: z.string(),
      status: z.string(),
      message: z.string().default(""),
      assertionResults: z.array(
        z.object({ status: z.string(), fullName: z.string(), failureMessages: z.array(z.string()).nullish() }),
      ),
    }),
  ),
});

/** So many lines of what a test says when it fails are said once more at the end. */
const mostLines = 12;

/** Of each test that failed its name and the beginning of what it said; of each file that could not be run the same. */
function failuresIn({ testResults }: z.infer<typeof reportSchema>): string[] {
  const beginning = (text: string) => text.split("\n").slice(0, mostLines).join("\n");
  return testResults.flatMap(({ name, status, message, assertionResults }) => {
    const failed = assertionResults.filter((one) => one.status === "failed");
    if (failed.length === 0) return status === "failed" ? [`${name}\n${beginning(message)}`] : [];
    return failed.map(
      ({ fullName, failureMessages }) => `${name}: ${fullName}\n${beginning(failureMessages?.join("\n") ?? "")}`,
    );
  });
}

/** Runs a program of this runtime; whether it ended well, and all it said. */
const run = (args: string[], cwd: string): Promise<{ fine: boolean; output: string }> =>
  new Promise((resolve) => {
    const program = spawn(process.execPath, args, { cwd, stdio: ["ignore", "pipe", "pipe"] });
    let output = "";
    for (const stream of [program.stdout, program.stderr])
      stream.on("data", (part: Buffer) => (output += String(part)));
    program.on("close", (code) => resolve({ fine: code === 0, output }));
  });

export async function test(root: string): Promise<void> {
  let passed = 0;
  let failed = 0;
  const failures: string[] = [];
  const began = Date.now();
  const step = (name: string, args: string[], environment: Record<string, string> = {}) => {
    console.log(`\n── ${name}`);
    return (
      spawnSync(process.execPath, args, {
        cwd: root,
        stdio: ["ignore", "inherit", "inherit"],
        env: { ...process.env, ...environment },
      }).status === 0
    );
  };
  const bin = (file: string) => path.join(root, "node_modules", file);
  const checks: [string, string[]][] = [
    ["types", [bin("typescript/bin/tsc"), "-p", "."]],
    ["format", [bin("prettier/bin/prettier.cjs"), "--check", "--log-level", "warn", "."]],
    [
      "unused",
      [bin("knip/bin/knip.js"), "--no-progress", "--no-config-hints", "--include", "files,exports,types,dependencies"],
    ],
    [
      "import arrows",
      [
        bin("dependency-cruiser/bin/dependency-cruise.mjs"),
        "--config",
        ".dependency-cruiser.cjs",
        "core",
        "server",
        "cli",
        "web",
        "worker",
        "demo",
      ],
    ],
  ];
  const tell = async (name: string, outcome: ReturnType<typeof run>) => {
    const { fine, output } = await outcome;
    console.log(`\n── ${name}`);
    if (output.trim() !== "") console.log(output.trim());
    if (fine) passed++;
    else {
      failed++;
      failures.push(name);
    }
  };
  // It takes as long as all the others together, and each keeps one core busy.
  const lint = run([bin("eslint/bin/eslint.js"), ".", "--max-warnings", "0"], root);
  for (const [name, args] of checks) await tell(name, run(args, root));
  await tell("lint", lint);
  try {
    console.log(`\n── pages${buildWeb(root).anew ? " built" : " are current"}`);
    passed++;
  } catch (error) {
    failures.push(`pages\n${String(error)}`);
    failed++;
  }
  const folder = mkdtempSync(path.join(tmpdir(), "larder-test-"));
  try {
    for (const project of ["unit", "service", "browser"]) {
      const report = path.join(folder, `${project}.json`);
      const fine = step(`${project} tests`, [
        bin("vitest/vitest.mjs"),
        "run",
        "--project",
        project,
        "--reporter=default",
        "--reporter=json",
        `--outputFile.json=${report}`,
      ]);
      try {
        const result = reportSchema.parse(JSON.parse(readFileSync(report, "utf8")));
        passed += result.numPassedTests;
        failed += result.numFailedTests;
        failures.push(...failuresIn(result));
        // A file that could not even be loaded, or a runner that fell, counts as one failure.
        if (result.numFailedTests === 0 && (!fine || !result.success)) {
          failed++;
          failures.push(`${project} tests: the runner fell, or a file could not be loaded`);
        }
      } catch {
        failed++;
        failures.push(`${project} tests: there is no report of them`);
      }
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
  for (const failure of failures) console.log(`\nfailed: ${failure}`);
  console.log(`\n${Math.round((Date.now() - began) / 1000)} s`);
  console.log(`${passed} passed, ${failed} failed`);
  process.exitCode = failed === 0 ? 0 : 1;
}
