import { readFileSync } from "node:fs";
import path from "node:path";
import type { Page } from "playwright-core";

type Violation = { id: string; nodes: { target: string[]; failureSummary: string }[] };

/**
 * What axe finds wrong with the page as it stands, a line a rule with up to three places; all its rules, or those
 * given.
 */
export async function violations(page: Page, rules?: string[]): Promise<string> {
  // Through the debugger: as a script of the page it would not be let run.
  await page.evaluate(
    readFileSync(path.join(import.meta.dirname, "..", "node_modules", "axe-core", "axe.min.js"), "utf8"),
  );
  const found = await page.evaluate(
    async (only) =>
      (
        await (
          window as unknown as {
            axe: { run: (what: Document, options: object) => Promise<{ violations: Violation[] }> };
          }
        ).axe.run(document, only ? { runOnly: only } : {})
      ).violations,
    rules,
  );
  return found
    .map(
      ({ id, nodes }) =>
        `${id}: ${nodes
          .slice(0, 3)
          .map((node) => `${node.target.join(" ")} (${node.failureSummary.split("\n").pop()?.trim()})`)
          .join("; ")}`,
    )
    .join("\n");
}
