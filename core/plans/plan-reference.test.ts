import { existsSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { ops } from "../imaging/ops/registry";
import { defaultsReference, opsReference } from "./plan-reference";

const again = "npx vitest run --project unit core/plans/plan-reference.test.ts -u";

function page(): string {
  return [
    "# The plan",
    "",
    "Made from the plan's schema and the registry of ops in `core/imaging/ops/`; a test fails when this page is stale",
    `(\`${again}\` writes it anew). The pictures are drawn from the demo by`,
    "`LARDER_DRAW_OPS=1 npx vitest run --project service server/pixels/op-pictures.test.ts`.",
    "",
    "A plan is one document, the same on the screen, as YAML, on the command line and in the API: `select`, `relabel`, `split`,",
    "`prepare`, `augment`, `pack`, run in this order. Everything has a default: `plan: 2` alone is a plan. Shares are written `30%`",
    "or `0.3`, ranges `[low, high]`; a range is drawn evenly. Unknown keys and values out of range are errors that name the line.",
    "",
    "## All defaults",
    "",
    "```json",
    defaultsReference().split("\n").slice(1).join("\n"),
    "```",
    "",
    "## Gates",
    "",
    "`gates: { near-copy-across-splits: 0, box-tiny: 5 }` names checks by their codes ([checks.md](checks.md)) and how much each may find",
    "in what select, relabel and split leave: objects, images, classes or splits, as the check counts them, by the thresholds of the",
    "collection (on files, the usual ones). While a gate is closed no version is built: the flow sheet shows it before, the build says",
    "it, `./larder check --plan` and `./larder build` end with 1 and write nothing. Gates are no part of the digest.",
    "",
    "## Ops",
    "",
    "Each op and group may have a `chance` (100% where nothing is said). `{ oneOf: [ops] }` takes one of its ops, `{ someOf: [1, 2],",
    "ops: [ops] }` some, in the order written. Geometry is composed with crop, tile and resize into one map, and pixels are sampled",
    "once; tones, textures and patches follow in the order written. Of each op the pictures show the low end of its default range,",
    "the middle and the high end.",
    "",
    opsReference(),
  ].join("\n");
}

describe("docs/plan.md", () => {
  it("is what the schema and the registry say", async () => {
    await expect(page()).toMatchFileSnapshot("../../docs/plan.md");
  });
  it("has a picture of every op", () => {
    const missing = ops.filter(({ name }) => !existsSync(new URL(`../../docs/ops/${name}.webp`, import.meta.url)));
    expect(missing.map(({ name }) => name)).toEqual([]);
  });
});
