/** What a data set is, for whoever trains on it: a card in Markdown, and the same as a page. */
import { marked } from "marked";
import { checkScript } from "./check-script";
import { splitNames } from "../model/item";
import type { Split } from "../model/item";

export type CardSource = {
  name: string;
  images: number;
  licence: string;
  citation: string;
  source: string;
  notes: string;
};

export type DataCard = {
  title: string;
  note: string;
  /** Null where nothing was frozen. */
  digest: string | null;
  /** When it was frozen, as text; null where it is no version. */
  frozen: string | null;
  images: number;
  objects: number;
  bySplit: Partial<Record<Split, { images: number; objects: number }>>;
  byClass: Record<string, number>;
  sources: readonly CardSource[];
  /** Small pictures of classes, as addresses that hold them (data:). */
  pictures: Readonly<Record<string, readonly string[]>>;
  /** The plan's text; null where no plan was run. */
  plan: string | null;
  /** What checks found, in sentences. */
  faults: readonly string[];
  /** Where a trainer is to look in this package; none for a version as such. */
  training: string | null;
  /** What packing it lost, in sentences. */
  losses: readonly string[];
};

const count = (value: number) => value.toLocaleString("en-US");

/** A text of somebody's as it is, whatever signs of Markdown or HTML stand in it. */
function plain(text: string): string {
  return text
    .replace(/\s*\n\s*/g, " ")
    .replace(/[\\`*_{}[\]<>()#+!|~-]/g, "\\$&")
    .replace(/&/g, "&amp;");
}

function table(head: readonly string[], rows: readonly (readonly string[])[]): string[] {
  const line = (cells: readonly string[]) => `| ${cells.join(" | ")} |`;
  return [line(head), line(head.map((_, at) => (at === 0 ? "---" : "---:"))), ...rows.map(line), ""];
}

/** The card as Markdown. Pictures would be long texts in it: only the page shows them. */
export function cardMarkdown(card: DataCard): string {
  return cardText(card, false);
}

const own = <T>(record: Readonly<Record<string, T>>, name: string): T | undefined =>
  Object.hasOwn(record, name) ? record[name] : undefined;

function cardText(card: DataCard, withPictures: boolean): string {
  const splits = splitNames.flatMap((split) => {
    const held = card.bySplit[split];
    return held ? [[split, count(held.images), count(held.objects)]] : [];
  });
  const classes = Object.entries(card.byClass).sort(([, a], [, b]) => b - a);
  const sources = card.sources.flatMap(({ name, images, ...facts }) => [
    `- **${plain(name)}**, ${count(images)} images`,
    ...Object.entries(facts).flatMap(([fact, text]) => (text === "" ? [] : [`  - ${fact}: ${plain(text)}`])),
  ]);
  const fence = "````";
  return [
    `# ${plain(card.title)}`,
    "",
    ...(card.note === "" ? [] : [plain(card.note), ""]),
    `${count(card.images)} images with ${count(card.objects)} objects of ${count(classes.length)} classes.${card.frozen ? ` Frozen ${card.frozen}.` : ""}`,
    "",
    ...(card.digest === null ? [] : [`Digest: \`${card.digest}\``, ""]),
    ...(splits.length === 0 ? [] : ["## Splits", "", ...table(["split", "images", "objects"], splits)]),
    "## Classes",
    "",
    ...table(
      ["class", "labels", ...(withPictures ? ["pictures"] : [])],
      classes.map(([name, labels]) => [
        plain(name),
        count(labels),
        ...(withPictures
          ? [(own(card.pictures, name) ?? []).map((address) => `<img src="${address}" alt="" height="56">`).join(" ")]
          : []),
      ]),
    ),
    "## Where the images come from",
    "",
    ...(sources.length > 0 ? sources : ["Nothing is known of it."]),
    "",
    ...(card.plan === null ? [] : ["## What was done", "", `${fence}yaml`, card.plan.trimEnd(), fence, ""]),
    ...(card.faults.length === 0
      ? []
      : ["## What checks found", "", ...card.faults.map((fault) => `- ${plain(fault)}`), ""]),
    ...(card.training === null
      ? []
      : [
          "## Training with it",
          "",
          plain(card.training),
          "",
          "`python3 check.py` counts the pictures and opens a sample of them.",
          "",
          "## What this format does not hold",
          "",
          ...(card.losses.length > 0
            ? card.losses.map((loss) => `- ${plain(loss)}`)
            : ["Nothing was lost in packing."]),
          "",
        ]),
  ].join("\n");
}

/** The card as a page of its own, without anything from elsewhere. */
export function cardHtml(card: DataCard): string {
  const body = marked.parse(cardText(card, true), { async: false });
  const title = card.title.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);
  const style =
    "body{font:15px/1.5 system-ui,sans-serif;max-width:46rem;margin:2rem auto;padding:0 1rem;color:#1d2521}" +
    "table{border-collapse:collapse}img{vertical-align:middle;border-radius:2px}td,th{padding:.2rem .8rem;border-bottom:1px solid #d8d4c8;text-align:left}" +
    "td+td,th+th{text-align:right}pre{background:#f4f1ea;padding:.8rem;overflow:auto}code{font-size:13px}";
  return `<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>${title}</title><style>${style}</style></head>\n<body>\n${body}</body></html>\n`;
}

/** The files that lie in every package beside what its format writes; `pictures` lie in files of their own. */
export function cardFiles(card: DataCard, pictures: number | null): { path: string; text: string }[] {
  return [
    { path: "DATA-CARD.md", text: cardMarkdown(card) },
    { path: "DATA-CARD.html", text: cardHtml(card) },
    { path: "check.py", text: checkScript(pictures) },
  ];
}
