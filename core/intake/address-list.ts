/** Lists of web addresses: a text with one a line, or a CSV with names. */
import { parse } from "csv-parse/sync";
import { csvText } from "../formats/csv/table";
import { isImagePath } from "../model/file-tree";

export type Address = { url: string; name: string };
/** `labels` is what the list's further columns say of its pictures, as a CSV by their names; null where they label nothing. */
export type AddressList = { addresses: Address[]; problems: string[]; labels: string | null };

const urlColumn = /^(url|address|link|image_url|href)$/i;
const sayingColumn =
  /^(labels?|class(es|_?name)?|categor(y|ies)|tags?|split|set|subset|[xy]_?(min|max)|[xy][12]|left|top|right|bottom)$/i;
const nameColumn = /^(name|file|file_?name|path)$/i;

/** A name from an address: its last piece, with an extension that says it is a picture. */
function nameFrom(url: URL): string {
  const last =
    url.pathname
      .split("/")
      .filter((piece) => piece !== "")
      .at(-1) ?? url.hostname;
  let name = last;
  try {
    name = decodeURIComponent(last);
  } catch {
    // Not an escape after all.
  }
  return safe(name);
}

/** A name as a path that stays where it is put. */
function safe(name: string): string {
  const parts = name
    .replaceAll("\\", "/")
    .replaceAll("\u0000", "")
    .split("/")
    .filter((part) => part !== "" && part !== "." && part !== "..");
  const path = parts.join("/").slice(-240) || "picture";
  return isImagePath(path) ? path : `${path}.jpg`;
}

/**
 * Reads a list. A CSV names its columns in its first line (url, and name where there is one) or gives address and name
 * in that order; a text gives one address a line, and lines that begin with # are skipped. An address that stands
 * twice counts once, and all its rows label it; names that stand twice get a number. `problems` names the lines that hold no address.
 */
export function readAddressList(text: string): AddressList {
  const rows = parse(text.replace(/^\uFEFF/, ""), {
    relax_column_count: true,
    relax_quotes: true,
    skip_empty_lines: true,
    trim: true,
    comment: "#",
    comment_no_infix: true,
    delimiter: text.includes("\t") ? "\t" : ",",
  });
  const head = rows[0] ?? [];
  const headed = head.some((cell) => urlColumn.test(cell));
  const urlAt = headed ? head.findIndex((cell) => urlColumn.test(cell)) : 0;
  const nameAt = headed ? head.findIndex((cell) => nameColumn.test(cell)) : 1;
  const addresses: Address[] = [];
  const problems: string[] = [];
  const names = new Set<string>();
  const nameOf = new Map<string, string>();
  const saying = headed && head.some((cell, at) => at !== urlAt && at !== nameAt && sayingColumn.test(cell));
  const said = head.map((_, at) => at).filter((at) => at !== urlAt && at !== nameAt);
  const labels: string[][] = [["filename", ...said.map((at) => head[at] ?? "")]];
  const label = (row: readonly string[], name: string) => labels.push([name, ...said.map((at) => row[at] ?? "")]);
  rows.slice(headed ? 1 : 0).forEach((row, index) => {
    // A comma may belong to an address that stands alone on its line.
    const address = (headed || row.length <= 2 ? row[urlAt] : row.join(",")) ?? "";
    const url = URL.canParse(address) ? new URL(address) : null;
    if (!url || (url.protocol !== "http:" && url.protocol !== "https:")) {
      problems.push(`line ${index + (headed ? 2 : 1)}: "${address.slice(0, 80)}"`);
      return;
    }
    const known = nameOf.get(url.href);
    if (known !== undefined) return void label(row, known);
    const given = nameAt >= 0 && (headed || row.length === 2) ? (row[nameAt] ?? "") : "";
    const wanted = given === "" ? nameFrom(url) : safe(given);
    const dot = wanted.lastIndexOf(".");
    let name = wanted;
    for (let n = 2; names.has(name); n++) name = `${wanted.slice(0, dot)}_${n}${wanted.slice(dot)}`;
    names.add(name);
    nameOf.set(url.href, name);
    label(row, name);
    addresses.push({ url: url.href, name });
  });
  return { addresses, problems, labels: saying ? csvText(labels) : null };
}
