import { describe, expect, it } from "vitest";
import { carriesTable } from "./describe";
import { declaredOptions, valuesText } from "./options";
import { lossesTable, possibleLosses } from "./possible-losses";
import { formatNamed, formats } from "./registry";

const written = formats.filter((format) => format.write);
const letters = {
  "loss-polygon": "P",
  "loss-mask": "M",
  "loss-keypoints": "K",
  "loss-rotation": "R",
  "loss-attributes": "A",
  "loss-caption": "C",
  "loss-image-class": "I",
  "loss-object": "O",
  "loss-split": "S",
  "loss-state": "E",
};

function page(): string {
  return [
    "# Formats in tables",
    "",
    "Made from what the formats declare in `core/formats/`; a test fails when this page is stale (`npx vitest run --project unit core/formats/format-tables.test.ts -u` writes it anew).",
    "",
    "## What each format carries",
    "",
    carriesTable(written),
    "",
    "## What each conversion can lose",
    "",
    `${Object.entries(letters)
      .map(([code, letter]) => `**${letter}** \`${code}\``)
      .join(", ")}. It depends on what the source really holds; \`convert\` and the pack step say it in numbers.`,
    "",
    lossesTable(written, letters),
    "",
    "## Options",
    "",
    "| format | option | takes | default | what it does |",
    "| --- | --- | --- | --- | --- |",
    ...written.flatMap((format) =>
      (["reading", "writing"] as const).flatMap((when) =>
        declaredOptions(format, when).map(
          (option) =>
            `| \`${format.name}\` | \`${option.name}\` (${when}) | ${valuesText(option).replaceAll("|", "\\|")} | ${option.default} | ${option.describes} |`,
        ),
      ),
    ),
    "",
  ].join("\n");
}

describe("the tables of docs/format-tables.md", () => {
  it("are as the declarations have it", async () => {
    await expect(page()).toMatchFileSnapshot("../../docs/format-tables.md");
  });
  it("say of a few conversions what is known by hand", () => {
    const of = (from: string, to: string) => possibleLosses(formatNamed(from), formatNamed(to));
    expect(of("yolo", "coco")).toEqual([]);
    expect(of("coco", "webdataset")).toEqual([]);
    expect(of("coco", "yolo")).toEqual([
      "loss-attributes",
      "loss-caption",
      "loss-keypoints",
      "loss-mask",
      "loss-polygon",
      "loss-split",
    ]);
    expect(of("csv-labels", "voc")).toEqual(["loss-caption", "loss-image-class"]);
    expect(of("jsonl", "parquet")).toEqual(["loss-caption"]);
    expect(of("yolo-obb", "yolo")).toEqual(["loss-rotation"]);
  });
});
