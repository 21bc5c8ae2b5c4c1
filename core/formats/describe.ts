/** What formats carry, in words, from their declarations: for the help and for the table in docs/formats.md. */
import type { Format } from "./format";

/** One line on what a format carries. */
export function describeCarries({ carries }: Format): string {
  const shapes = carries.shapes.map(
    (kind) =>
      ({
        box: "boxes",
        "rotated-box": "rotated boxes",
        polygon: "outlines",
        mask: "masks",
        keypoints: "keypoints",
        line: "lines",
      })[kind],
  );
  const parts = [
    ...shapes,
    ...(carries.imageClasses === "none"
      ? []
      : [carries.imageClasses === "one" ? "one class an image" : "classes of images"]),
    ...(carries.flags.length > 0 ? [`the flags ${carries.flags.join(", ")}`] : []),
    ...(carries.attributes === true
      ? ["attributes"]
      : carries.attributes === false
        ? []
        : [`the attributes ${carries.attributes.join(", ")}`]),
    ...(carries.captions === "none" ? [] : [carries.captions === "one" ? "one caption an image" : "captions"]),
    ...(carries.fields ? ["fields"] : []),
  ];
  return parts.length === 0 ? "no labels" : parts.join(", ");
}

const tick = (value: boolean) => (value ? "yes" : "–");

/** The table format × what it carries, as Markdown. */
export function carriesTable(formats: readonly Format[]): string {
  const header = [
    "format",
    "boxes",
    "rotated boxes",
    "outlines",
    "masks",
    "keypoints",
    "holes",
    "image classes",
    "flags",
    "attributes",
    "captions",
    "fields",
    "no split",
    "empty ≠ unlabeled",
    "coordinates come back within",
  ];
  const rows = formats.map(({ name, carries, rounding }) => [
    `\`${name}\``,
    ...(["box", "rotated-box", "polygon", "mask", "keypoints"] as const).map((kind) =>
      tick(carries.shapes.includes(kind)),
    ),
    carries.shapes.includes("polygon") || carries.shapes.includes("mask")
      ? { kept: "yes", mask: "as a mask", lost: "filled" }[carries.holes]
      : "–",
    carries.imageClasses === "none" ? "–" : carries.imageClasses,
    carries.flags.join(", ") || "–",
    carries.attributes === true ? "all" : carries.attributes === false ? "–" : carries.attributes.join(", "),
    carries.captions === "none" ? "–" : carries.captions,
    tick(carries.fields),
    tick(carries.noSplit),
    tick(carries.empty),
    carries.shapes.length === 0
      ? "–"
      : rounding.pixels >= 0.1
        ? `${rounding.pixels} pixel`
        : rounding.relative >= 1e-7
          ? `${rounding.relative.toExponential(0)} of the size`
          : "exact",
  ]);
  return [header, header.map(() => "---"), ...rows].map((row) => `| ${row.join(" | ")} |`).join("\n");
}
