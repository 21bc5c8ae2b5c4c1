/** Checks of what is so large that a job takes stock of it: what the page says while it does, and what comes after. */
import { readFileSync } from "node:fs";
import path from "node:path";
import { v7 as uuidV7 } from "uuid";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { violations } from "./accessible";
import { openBenchPage, type BenchPage } from "./bench-page";

let bench: BenchPage;
let plan: number;
const worker = () => Number(readFileSync(path.join(bench.larder.home, "worker.pid"), "utf8"));
const tiny = "1 object is fewer than 4 pixels wide or high.";
const twoTiny = "2 objects are fewer than 4 pixels wide or high.";
const finding = (sentence: string) =>
  bench.page.getByRole("list", { name: "Findings" }).getByRole("listitem").filter({ hasText: sentence }).first();
const waiting = (sentence: string) => bench.page.getByRole("status").filter({ hasText: sentence });

async function draw(image: number, order: number, [x, y, width, height]: [number, number, number, number]) {
  const { collection, json, post } = bench;
  const [roll] = await json<{ id: number }[]>(`/api/collections/${collection}/classes`);
  const object = { uid: uuidV7(), class: roll?.id, order, shape: { kind: "box", x, y, width, height } };
  await post(`/api/collections/${collection}/steps`, [
    { image, revision: order, steps: [{ do: "add-object", object }] },
  ]);
}

beforeAll(async () => {
  // Two objects and images are many already.
  bench = await openBenchPage({ LARDER_COMPARED_AT_ONCE: "1" });
  const { collection, images, post } = bench;
  await draw(images[0] as number, 0, [20, 20, 60, 60]);
  await draw(images[0] as number, 1, [120, 90, 2, 2]);
  plan = (await post(`/api/collections/${collection}/plans`, { name: "Everything" }))["id"] as number;
  await post(`/api/plans/${plan}`, { body: { select: { states: ["unlabeled"] } } }, "PATCH");
});
afterAll(() => bench?.close());

describe("checks of a large stock", () => {
  it("say that stock is being taken of what a plan leaves, and show what is found as soon as it is", async () => {
    const { page, larder, collection } = bench;
    process.kill(worker(), "SIGSTOP");
    try {
      await page.goto(`${larder.url}/c/${collection}/checks?plan=${plan}`);
      await waiting("Stock is being taken in the background, as there is much to look at").waitFor();
      expect(await page.getByText("Nothing stands out").count()).toBe(0);
      expect(await violations(page)).toBe("");
    } finally {
      process.kill(worker(), "SIGCONT");
    }
    await finding(tiny).waitFor();
    await waiting("Stock is being taken").waitFor({ state: "detached" });
    await finding(tiny)
      .getByRole("link", { name: /plain_0\.png, 1 marked/ })
      .waitFor();
  });

  it("show what was found before while it is taken anew, and then what is found now", async () => {
    const { images } = bench;
    process.kill(worker(), "SIGSTOP");
    try {
      await draw(images[0] as number, 2, [220, 90, 2, 2]);
      await waiting("These are the findings of before.").waitFor();
      await finding(tiny).waitFor();
    } finally {
      process.kill(worker(), "SIGCONT");
    }
    await finding(twoTiny).waitFor();
    await waiting("Something has changed").waitFor({ state: "detached" });
    expect(bench.errors).toEqual([]);
  });
});
