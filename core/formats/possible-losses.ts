/** What converting from one format to another can lose, from their declarations alone. */
import { runsFromBitmap } from "../geometry/run-length";
import { Findings, type FindingCode } from "../model/finding";
import { blankItem, type LabeledObject } from "../model/item";
import type { Shape } from "../model/shape";
import { fitItem } from "./fit";
import type { Format, Options, SizedItem } from "./format";

const size = { width: 40, height: 40 };

function everyShape(): Shape[] {
  const bitmap = new Uint8Array(size.width * size.height);
  for (let y = 30; y < 36; y++) bitmap.fill(1, y * size.width + 2, y * size.width + 9);
  return [
    { kind: "box", x: 1, y: 1, width: 5, height: 5 },
    { kind: "rotated-box", cx: 14, cy: 5, width: 8, height: 3, angle: 0.4 },
    { kind: "polygon", parts: [[[22, 1, 30, 2, 25, 9]]] },
    // So thin that no pixel's centre lies inside.
    { kind: "polygon", parts: [[[20, 36.1, 30, 36.1, 30, 36.3, 20, 36.3]]] },
    {
      kind: "polygon",
      parts: [
        [
          [1, 12, 9, 12, 9, 20, 1, 20],
          [3, 14, 3, 17, 6, 17, 6, 14],
        ],
        [[10, 12, 14, 12, 12, 18]],
      ],
    },
    { kind: "mask", ...size, counts: runsFromBitmap(bitmap, size.width, size.height) },
    {
      kind: "keypoints",
      points: [
        { x: 20, y: 22, v: 2 },
        { x: 24, y: 28, v: 1 },
      ],
      box: { x: 18, y: 20, width: 8, height: 10 },
    },
  ];
}

/** Images that together say everything there is to say. */
function everything(): SizedItem[] {
  const object = (shape: Shape): LabeledObject => ({
    class: "a",
    shape,
    crowd: true,
    occluded: true,
    truncated: true,
    difficult: true,
    confidence: 0.5,
    attributes: { any: "thing" },
  });
  const item = (more: Partial<SizedItem>): SizedItem => ({
    ...blankItem("a.jpg"),
    split: "train",
    state: "labeled",
    size,
    ...more,
  });
  return [
    ...everyShape().map((shape) => item({ objects: [object(shape)] })),
    item({
      objects: everyShape()
        .slice(0, 1)
        .flatMap((shape) => [object(shape), { ...object({ ...shape, x: 10, y: 20 } as Shape), class: "b" }]),
    }),
    item({ classes: ["a", "b"] }),
    item({ captions: ["one", "two"], fields: { key: "value" } }),
    item({ state: "empty" }),
    item({ split: null, classes: ["a"] }),
  ];
}

function optionsOf(format: Format): Options {
  return format.surveyed?.({ objects: 1, imageClasses: 1 }, {}) ?? {};
}

/** The loss codes that may come up when what `source` carries goes into `target`. */
export function possibleLosses(source: Format, target: Format): FindingCode[] {
  const report = new Findings();
  for (const item of everything()) {
    const carried = fitItem(item, source, optionsOf(source), new Findings());
    if (carried) fitItem(carried, target, optionsOf(target), report);
  }
  return report
    .list()
    .map(({ code }) => code as FindingCode)
    .filter((code) => code.startsWith("loss-"))
    .sort();
}

/** Each conversion's possible losses as a Markdown table; `letters` stand for the codes. */
export function lossesTable(formats: readonly Format[], letters: Readonly<Record<string, string>>): string {
  const rows = formats.map((source) => [
    `\`${source.name}\``,
    ...formats.map((target) =>
      source === target
        ? "·"
        : possibleLosses(source, target)
            .map((code) => letters[code] ?? "?")
            .join(" ") || "–",
    ),
  ]);
  const header = ["from ↓ to →", ...formats.map(({ name }) => `\`${name}\``)];
  return [header, header.map(() => "---"), ...rows].map((row) => `| ${row.join(" | ")} |`).join("\n");
}
