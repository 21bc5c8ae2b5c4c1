/** What a data set is, for whoever trains on it: a card in Markdown, and the same as a page. */
import { marked } from "marked";
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
  digest: string;
  /** When it was frozen, as text; null where it is no version. */
  frozen: string | null;
  images: number;
  objects: number;
  bySplit: Partial<Record<Split, { images: number; objects: number }>>;
  byClass: Record<string, number>;
  sources: readonly CardSource[];
  /** The plan's text. */
  plan: string;
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

export function cardMarkdown(card: DataCard): string {
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
    `Digest: \`${card.digest}\``,
    "",
    "## Splits",
    "",
    ...table(["split", "images", "objects"], splits),
    "## Classes",
    "",
    ...table(
      ["class", "labels"],
      classes.map(([name, labels]) => [plain(name), count(labels)]),
    ),
    "## Where the images come from",
    "",
    ...(sources.length > 0 ? sources : ["Nothing is known of it."]),
    "",
    "## What was done",
    "",
    `${fence}yaml`,
    card.plan.trimEnd(),
    fence,
    "",
    "## What this format does not hold",
    "",
    ...(card.losses.length > 0 ? card.losses.map((loss) => `- ${plain(loss)}`) : ["Nothing was lost in packing."]),
    "",
  ].join("\n");
}

/** The card as a page of its own, without anything from elsewhere. */
export function cardHtml(card: DataCard): string {
  const body = marked.parse(cardMarkdown(card), { async: false });
  const title = card.title.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);
  const style =
    "body{font:15px/1.5 system-ui,sans-serif;max-width:46rem;margin:2rem auto;padding:0 1rem;color:#1d2521}" +
    "table{border-collapse:collapse}td,th{padding:.2rem .8rem;border-bottom:1px solid #d8d4c8;text-align:left}" +
    "td+td,th+th{text-align:right}pre{background:#f4f1ea;padding:.8rem;overflow:auto}code{font-size:13px}";
  return `<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>${title}</title><style>${style}</style></head>\n<body>\n${body}</body></html>\n`;
}
