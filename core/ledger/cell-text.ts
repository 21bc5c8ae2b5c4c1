/**
 * Cells as texts and back. Nothing said is an empty text, a text that is empty is `""`; lists stand with semicolons, yes
 * and no are words.
 */
import { attributeMisfit } from "../model/attribute-schema";
import { splitNames } from "../model/item";
import { choicesOf, holdsList, type CellValue, type LedgerColumn } from "./column";

export const emptyText = '""';
const listSign = ";";

/** An entry of a list: in quotes where it holds what would be taken for the list's own signs. */
const quotedEntry = (entry: string) =>
  /[;"]/.test(entry) || entry !== entry.trim() || entry === "" ? `"${entry.replaceAll('"', '""')}"` : entry;

export function cellText(value: CellValue): string {
  if (value === null) return "";
  if (value === "") return emptyText;
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (Array.isArray(value)) return value.map(quotedEntry).join(`${listSign} `);
  return String(value);
}

/** The entries of a list as `cellText` writes it; what is left of a quote that is not closed is taken as it stands. */
export function listEntries(text: string): string[] {
  return [...text.matchAll(/\s*(?:"((?:[^"]|"")*)"|([^;]*))\s*(?:;|$)/g)]
    .map(([, quoted, bare]) => (quoted === undefined ? (bare ?? "").trim() : quoted.replaceAll('""', '"')))
    .filter((entry) => entry !== "");
}

export type ParsedCell = { value: CellValue } | { misfit: string };

/** A number that can be kept: one too large for that is none. */
const asNumber = (text: string): number | null =>
  /^[-+]?(\d+(\.\d*)?|\.\d+)(e[-+]?\d+)?$/i.test(text) && Number.isFinite(Number(text)) ? Number(text) : null;

const asTruth = (text: string): boolean | null =>
  text === "yes" || text === "true" ? true : text === "no" || text === "false" ? false : null;

/** A text without a schema as what it reads as: yes or no, a number, else a text. */
function asItReads(text: string): CellValue {
  return asTruth(text) ?? asNumber(text) ?? (text === emptyText ? "" : text);
}

/** A name as the list has it, however its letters are cased; null where it has none like it. */
function listed(entry: string, names: readonly string[]): string | null {
  if (names.includes(entry)) return entry;
  const alike = names.filter((name) => name.toLowerCase() === entry.toLowerCase());
  return alike.length === 1 ? (alike[0] ?? null) : null;
}

const short = (names: readonly string[]) =>
  names.length > 12 ? `${names.slice(0, 12).join(", ")} and ${names.length - 12} more` : names.join(", ");

function parsedAttribute(column: Extract<LedgerColumn, { kind: "attribute" }>, text: string): ParsedCell {
  const { schema } = column;
  if (!schema) return { value: asItReads(text) };
  const value = ((): CellValue => {
    switch (schema.kind) {
      case "number":
        return asNumber(text) ?? text;
      case "yes-no":
        return asTruth(text.toLowerCase()) ?? text;
      case "choice":
        return listed(text, schema.values) ?? text;
      case "several":
        return listEntries(text).map((entry) => listed(entry, schema.values) ?? entry);
      case "text":
        return text === emptyText ? "" : text;
    }
  })();
  const misfit = attributeMisfit(schema, value);
  return misfit ? { misfit } : { value };
}

/** What a text says in a column, or why it does not fit. An empty one says nothing. */
export function parseCell(column: LedgerColumn, text: string): ParsedCell {
  const bare = text.trim();
  if (bare === "") return { value: null };
  switch (column.kind) {
    case "split": {
      const split = listed(bare, splitNames);
      if (split === null && bare.toLowerCase() === "none") return { value: null };
      return split === null ? { misfit: `A split is ${splitNames.join(", ")}, or nothing.` } : { value: split };
    }
    case "classes": {
      const entries = listEntries(bare).map((entry) => ({ entry, name: listed(entry, column.names) }));
      const unknown = entries.find(({ name }) => name === null);
      return unknown
        ? { misfit: `There is no class "${unknown.entry}" here. There are: ${short(column.names)}.` }
        : { value: [...new Set(entries.map(({ name }) => name as string))] };
    }
    case "tags": {
      const tags = [...new Set(listEntries(bare))].sort();
      return tags.some((tag) => tag.length > 100) ? { misfit: "A tag has 100 characters at most." } : { value: tags };
    }
    case "caption":
      return { value: text === emptyText ? null : text };
    case "attribute":
      return parsedAttribute(column, bare);
  }
}

/**
 * What a typed text is completed to, while its last word is typed: the text with the rest of the first choice that begins
 * with it; null where there is none.
 */
export function completed(column: LedgerColumn, text: string): string | null {
  const from = holdsList(column) ? text.lastIndexOf(listSign) + 1 : 0;
  const typed = text.slice(from).trimStart();
  if (typed === "") return null;
  const choice = choicesOf(column).find(
    (one) => one.length > typed.length && one.toLowerCase().startsWith(typed.toLowerCase()),
  );
  return choice === undefined ? null : text + choice.slice(typed.length);
}
