/** The commands as a script calls them: exit statuses, JSON on standard output, and what is left on disk. */
import { manyPictures } from "@larder/demo/many";
import { programFile } from "@larder/server/program-file";
import { settings } from "@larder/server/settings";
import { zipBytes } from "@larder/server/tests/bakery";
import { execFile, spawn } from "node:child_process";
import { createHash } from "node:crypto";
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import sharp from "sharp";
import { afterAll, beforeAll, describe, expect, it } from "vitest";

const program = programFile("larder");
const folder = mkdtempSync(path.join(tmpdir(), "larder-commands-"));
const source = path.join(folder, "source");
afterAll(() => rmSync(folder, { recursive: true, force: true }));

beforeAll(async () => {
  for (const file of await manyPictures(12, { width: 96, height: 64 })) {
    const to = path.join(source, file.path);
    mkdirSync(path.dirname(to), { recursive: true });
    writeFileSync(to, await file.bytes());
  }
});

type Ran = { status: number; stdout: string; stderr: string };
const larder = (...words: string[]): Promise<Ran> =>
  new Promise((resolve) => {
    execFile(process.execPath, [program, ...words], { maxBuffer: 1 << 26 }, (error, stdout, stderr) =>
      resolve({ status: typeof error?.code === "number" ? error.code : error ? -1 : 0, stdout, stderr }),
    );
  });
const json = (ran: Ran) =>
  JSON.parse(ran.stdout) as {
    images: number;
    objects: number;
    written: { images: number; objects: number };
    findings: { code: string; severity: string }[];
    format: string;
    packages: { to: string; images: number }[];
  };

describe("exit statuses and what is printed", () => {
  it("0 and one JSON object for a source that is well, nothing on standard error", async () => {
    const ran = await larder("inspect", source, "--json");
    expect([ran.status, ran.stderr]).toEqual([0, ""]);
    expect(json(ran)).toMatchObject({ format: "coco", images: 12 });
  });
  it("1 with error findings, 2 for what cannot be read and for wrong usage, never a stack trace", async () => {
    const broken = path.join(folder, "broken");
    mkdirSync(broken);
    writeFileSync(path.join(broken, "a.jpg"), "no picture");
    writeFileSync(path.join(broken, "classes.txt"), "roll\n");
    writeFileSync(path.join(broken, "a.txt"), "0 .5 .5 .1 .1\n");
    const empty = path.join(folder, "empty");
    mkdirSync(empty);
    const cases: [string[], number][] = [
      [["inspect", broken, "--json"], 1],
      [["inspect", empty], 2],
      [["inspect", path.join(folder, "nowhere")], 2],
      [["inspect", source, "--from", "scrolls"], 2],
      [["inspect", source, "--option", "colour=red"], 2],
      [["convert", source], 2],
      [["convert", source, path.join(folder, "x"), "--to", "scrolls"], 2],
      [["build", source, path.join(folder, "x"), "--plan", path.join(folder, "none.yaml")], 2],
      [["inspect", source, "--from", "voc"], 2],
      [["convert", source, path.join(folder, "x"), "--from", "tfrecord", "--to", "yolo"], 2],
      [["dance"], 2],
    ];
    const ran = await Promise.all(cases.map(([words]) => larder(...words)));
    expect(ran.map(({ status }) => status)).toEqual(cases.map(([, status]) => status));
    for (const { stderr, stdout } of ran) expect(stderr + stdout).not.toMatch(/\n\s+at .*:\d+:\d+/);
    expect(existsSync(path.join(folder, "x"))).toBe(false);
  });
  it("names files from where it is called, through the entry script too", async () => {
    const script = path.join(settings().root, "larder");
    const ran = await new Promise<Ran>((resolve) =>
      execFile(script, ["inspect", "source", "--json"], { cwd: folder, maxBuffer: 1 << 26 }, (error, stdout, stderr) =>
        resolve({ status: error ? 1 : 0, stdout, stderr }),
      ),
    );
    expect(ran.stderr).toBe("");
    expect(json(ran).images).toBe(12);
  });
  it("help for a format names its options with values, default and example", async () => {
    const { status, stdout } = await larder("convert", "--help", "voc");
    expect(status).toBe(0);
    expect(stdout).toMatch(/write-origin=one\|zero[\s\S]*default: one; for example --option write-origin=zero/);
    expect((await larder("convert", "--help")).stdout).toContain("--to <format>");
    expect((await larder("convert", "--help", "scrolls")).status).toBe(2);
  });
});

describe("convert", () => {
  it("with no flag but the target does the sensible thing and says what it did", async () => {
    const { status, stdout } = await larder("convert", source, path.join(folder, "plain"), "--to", "kitti");
    expect(status).toBe(0);
    expect(stdout).toMatch(
      /read as coco, is now .*plain as kitti:\n12 of 12 images and \d+ of \d+ objects, read back and compared/,
    );
    expect(stdout).not.toContain("\u001b[");
  });
  it("with no flag at all goes to a format that suits what there is, and says why", async () => {
    const { status, stdout } = await larder("convert", source, path.join(folder, "bare-call"));
    expect(status).toBe(0);
    expect(stdout).toMatch(
      /read as coco, is now .*bare-call as yolo:[\s\S]*No format was asked for; yolo was taken: it is coco already, and has boxes/,
    );
    const there = await larder("convert", path.join(folder, "bare-call"), path.join(folder, "bare-back"), "--json");
    expect(JSON.parse(there.stdout)).toMatchObject({ from: "yolo", to: "coco", images: 12, written: { images: 12 } });
  });
  it("links pictures, or leaves them out", async () => {
    const [linked, bare] = [path.join(folder, "linked"), path.join(folder, "bare")];
    expect((await larder("convert", source, linked, "--to", "voc", "--option", "images=link", "--json")).status).toBe(
      0,
    );
    const [picture] = readdirSync(path.join(linked, "JPEGImages"));
    expect(statSync(path.join(linked, "JPEGImages", picture ?? "")).nlink).toBe(2);
    const none = await larder("convert", source, bare, "--to", "yolo", "--option", "images=none", "--json");
    expect(json(none).written.images).toBe(12);
    expect(existsSync(path.join(bare, "images"))).toBe(false);
    expect(readdirSync(path.join(bare, "labels", "train"))).toHaveLength(12);
  });
  it("leaves nothing behind when it is stopped in the middle", async () => {
    const place = path.join(folder, "stopped");
    mkdirSync(place);
    const child = spawn(process.execPath, [program, "convert", source, path.join(place, "out"), "--to", "masks"], {
      stdio: "ignore",
    });
    const ended = new Promise<number | null>((resolve) => child.on("exit", resolve));
    while (readdirSync(place).length === 0 && child.exitCode === null) await sleep(5);
    child.kill("SIGTERM");
    const status = await ended;
    // It may have been done by then; half done it is never.
    expect(status === 1 ? readdirSync(place) : []).toEqual([]);
    if (status !== 1) expect(readdirSync(place)).toEqual(["out"]);
  });
  it("writes nothing outside of its place, whatever an archive is called inside", async () => {
    const raw = await zipBytes({
      "aa/evil.jpg": readFileSync(findPicture(source)),
      "classes.txt": "roll\n",
      "good/b.jpg": readFileSync(findPicture(source)),
    });
    const evil = path.join(folder, "evil.zip");
    writeFileSync(evil, Buffer.from(raw.toString("latin1").replaceAll("aa/evil.jpg", "../evil.jpg"), "latin1"));
    const ran = await larder("convert", evil, path.join(folder, "deep", "from-evil"), "--to", "csv-labels", "--json");
    expect(ran.status).toBe(1);
    expect(json(ran).findings.map(({ code }) => code)).toContain("entry-unsafe");
    expect(existsSync(path.join(folder, "evil.jpg"))).toBe(false);
    expect(existsSync(path.join(folder, "deep", "evil.jpg"))).toBe(false);
  });
  it("refuses a link that leads elsewhere as its place", async () => {
    const link = path.join(folder, "link-out");
    symlinkSync(path.join(folder, "elsewhere"), link);
    expect((await larder("convert", source, link, "--to", "yolo")).status).toBe(2);
  });
});

describe("build", () => {
  it("runs a plan into a folder for each format, the same again for the same source", async () => {
    const plan = path.join(folder, "plan.yaml");
    writeFileSync(
      plan,
      [
        "plan: 2",
        "seed: 3",
        "relabel:",
        "  rename: { roll: bun }",
        "split:",
        "  ratio: { train: 50, val: 25, test: 25 }",
        "prepare:",
        "  resize: { mode: fit, width: 48, height: 48 }",
        "augment:",
        "  copies: 1",
        "  do: [{ op: flip-sideways }]",
        "pack:",
        "  formats: [yolo, coco]",
        "",
      ].join("\n"),
    );
    const ran = await larder("build", source, path.join(folder, "built"), "--plan", plan, "--json");
    expect([ran.status, ran.stderr]).toEqual([0, ""]);
    const { packages } = json(ran);
    // Six of twelve are trained on, each with one copy.
    expect(packages.map(({ to, images }) => [to, images])).toEqual([
      ["yolo", 18],
      ["coco", 18],
    ]);
    expect(
      ["train", "val", "test"].map((split) => readdirSync(path.join(folder, "built", "yolo", "images", split)).length),
    ).toEqual([12, 3, 3]);
    const label = (place: string) =>
      readFileSync(
        path.join(
          folder,
          place,
          "yolo",
          "labels",
          "train",
          readdirSync(path.join(folder, place, "yolo", "labels", "train"))[1] ?? "",
        ),
        "utf8",
      );
    expect((await larder("build", source, path.join(folder, "again"), "--plan", plan)).status).toBe(0);
    expect(label("again")).toBe(label("built"));
  });
  it("counts without writing, says its digest, and why an image is not there", async () => {
    const plan = path.join(folder, "dry.yaml");
    writeFileSync(plan, "plan: 2\nselect: { where: 'name like \"*_00000*\" or objects >= 1', cap: { images: 4 } }\n");
    const manifest = path.join(folder, "manifest.jsonl");
    const dry = await larder("build", source, path.join(folder, "dry"), "--plan", plan, "--dry", "--json");
    expect([dry.status, dry.stderr, existsSync(path.join(folder, "dry"))]).toEqual([0, "", false]);
    const said = JSON.parse(dry.stdout) as {
      digest: string;
      splits: Record<string, { images: number; objects: number }>;
      steps: { step: string; images: number }[];
    };
    expect(said.steps.map(({ step }) => step)).toEqual([
      "stock",
      "select",
      "relabel",
      "split",
      "prepare",
      "augment",
      "pack",
    ]);
    expect(said.steps[0]?.images).toBe(12);
    expect(Object.keys(said.splits)).toEqual(["train", "val", "test"]);
    const told = await larder("build", source, "--plan", plan, "--manifest", manifest, "--json");
    expect((JSON.parse(told.stdout) as { digest: string }).digest).toBe(said.digest);
    expect(createHash("sha256").update(readFileSync(manifest)).digest("hex")).toBe(said.digest);
    const names = readdirSync(source, { recursive: true })
      .map(String)
      .filter((name) => name.endsWith(".jpg"));
    const why = await Promise.all(
      names
        .slice(0, 3)
        .map(async (name) => (await larder("build", source, "--plan", plan, "--explain", path.basename(name))).stdout),
    );
    expect(why.join("")).toMatch(/left at select: cap: .* has its 4 images already|goes to (train|val|test)/);
  });
  it("refuses a plan that cannot be with its line, and writes nothing", async () => {
    const plan = path.join(folder, "wrong.yaml");
    const cases: [string, RegExp][] = [
      ["plan: 2\nsplit:\n  ratio: { trian: 3 }\n", /Line 3, split\.ratio\.trian.*Did you mean train/],
      ["plan: 2\nvisible: 30\n", /Line 2, visible: 30 is out of range/],
      ["plan: 2\naugment: { do: [{ op: spin }] }\n", /Line 2, augment\.do\[0\]\.op/],
      ["plan: 2\nsplit: { mode: counts, counts: { val: 500 } }\n", /ask for 500 images/],
      ["plan: 2\nsplit: { like: 3 }\n", /application alone knows/],
      ["plan: 2\nselect: { where: '@night' }\n", /No selection is saved as @night/],
      ["plan: 2\npack: { formats: [scrolls] }\n", /cannot be packed/],
      ["plan: 2\nprepare: { tiles: { columns: 60, rows: 60 } }\n", /would be \d px/],
    ];
    for (const [text, message] of cases) {
      writeFileSync(plan, text);
      const ran = await larder("build", source, path.join(folder, "wrong"), "--plan", plan);
      expect([ran.status, existsSync(path.join(folder, "wrong"))], text).toEqual([2, false]);
      expect(ran.stderr).toMatch(message);
    }
  });
});

function findPicture(place: string): string {
  for (const entry of readdirSync(place, { recursive: true, withFileTypes: true }))
    if (entry.isFile() && entry.name.endsWith(".jpg")) return path.join(entry.parentPath, entry.name);
  throw new Error("no picture");
}

describe("check", () => {
  it("says what is wrong on files as JSON and as text, and ends with 1 where something is an error", async () => {
    const folderOf = path.join(folder, "checked");
    const draw = (n: number) =>
      sharp({ create: { width: 120, height: 90, channels: 3, background: `hsl(${n * 40} 60% ${30 + 5 * n}%)` } });
    const pictures = await Promise.all(
      [0, 1, 2, 3].map(
        async (n) => [`images/${n < 3 ? "train" : "val"}/${n}.png`, await draw(n).png().toBuffer()] as const,
      ),
    );
    for (const [name, bytes] of [
      ...pictures,
      ["data.yaml", "path: .\ntrain: images/train\nval: images/val\nnames: [roll, rolls]\n"] as const,
      ["labels/train/0.txt", "0 0.5 0.5 1 1\n"] as const,
      ["labels/train/1.txt", "0 0.2 0.2 0.01 0.2\n0 0.7 0.7 0.3 0.3\n"] as const,
      ["labels/train/2.txt", "1 0.5 0.5 0.4 0.4\n"] as const,
      ["labels/val/3.txt", "0 0.5 0.5 0.4 0.4\n"] as const,
    ]) {
      mkdirSync(path.dirname(path.join(folderOf, name)), { recursive: true });
      writeFileSync(path.join(folderOf, name), bytes);
    }
    const ran = await larder("check", folderOf, "--json");
    const { numbers, findings } = JSON.parse(ran.stdout) as CheckedAnswer;
    expect(numbers).toMatchObject({ images: 4, objects: 5, splits: { train: 3, val: 1, test: 0, none: 0 } });
    const found = new Map(findings.map(({ code, ...finding }) => [code, finding]));
    expect(found.get("box-whole-picture")).toMatchObject({
      count: 1,
      threshold: 98,
      examples: [expect.stringContaining("0.png")],
    });
    expect(found.get("box-tiny")).toMatchObject({ count: 1, severity: "warning" });
    expect(found.get("class-similar")?.message).toContain('"roll" and "rolls"');
    // Plain pictures are all alike to a hash of their brightness: one of them lies in another split.
    expect(found.get("near-copy-across-splits")).toMatchObject({ severity: "error", count: 4 });
    expect(ran.status).toBe(1);
    const some = await larder("check", folderOf, "--where", "split = train");
    expect(some.status).toBe(0);
    expect(some.stdout).toContain("1 object covers 98% of their picture or more.  [box-whole-picture]");
    expect((await larder("check", path.join(folder, "nowhere"))).status).toBe(2);
  });
  it("looks at what a plan leaves, and a closed gate ends check and build with 1 and nothing written", async () => {
    const plan = path.join(folder, "gated.yaml");
    const body =
      "plan: 2\nrelabel: { leaveOut: [rolls] }\nsplit: { mode: keep, stand: all }\npack: { formats: [coco] }\n";
    const checked = path.join(folder, "checked");
    const built = path.join(folder, "gated");
    writeFileSync(plan, `${body}gates: { box-tiny: 0, near-copy-across-splits: 9 }\n`);
    const ran = await larder("check", checked, "--plan", plan, "--json");
    const { numbers, findings, gates } = JSON.parse(ran.stdout) as CheckedAnswer;
    // 2.txt held the one that was left out, and stays as an empty image.
    expect(numbers).toMatchObject({ images: 4, objects: 4, splits: { train: 3, val: 1 } });
    expect(findings.map(({ code }) => code)).not.toContain("class-similar");
    expect(gates).toMatchObject([
      { code: "near-copy-across-splits", most: 9, found: 4, isOpen: true },
      { code: "box-tiny", most: 0, found: 1, isOpen: false },
    ]);
    expect(ran.status).toBe(1);
    const refused = await larder("build", checked, built, "--plan", plan);
    expect([refused.status, existsSync(built)]).toEqual([1, false]);
    expect(refused.stdout).toContain("gate closed  box-tiny: 1 found, at most 0.");
    writeFileSync(plan, `${body}gates: { box-tiny: 1 }\n`);
    const open = await larder("build", checked, built, "--plan", plan, "--json");
    expect(JSON.parse(open.stdout)).toMatchObject({ gates: [{ code: "box-tiny", found: 1, isOpen: true }] });
    expect([open.status, existsSync(built)]).toEqual([0, true]);
    writeFileSync(plan, `${body}gates: { box-tinny: 1 }\n`);
    expect((await larder("check", checked, "--plan", plan)).status).toBe(2);
  });
});
type CheckedAnswer = {
  gates?: object[];
  numbers: object;
  findings: {
    code: string;
    severity: string;
    message: string;
    count: number;
    threshold: number | null;
    examples: string[];
  }[];
};
