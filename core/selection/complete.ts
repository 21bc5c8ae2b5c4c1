/** What may be typed next in a selection: words of the language, fields, classes and values, with how many have them. */
import type { IToken } from "chevrotain";
import { imageFields, objectFields, type FieldInfo } from "./fields";
import { expectedAfter } from "./parse";
import {
  Close,
  CloseSet,
  Comma,
  Has,
  In,
  Like,
  No,
  Open,
  OpenSet,
  quote,
  standsBare,
  textOf,
  To,
  tokenise,
  Whole,
} from "./tokens";
import { AtLeast, AtMost, Equal, Less, More, Unequal } from "./tokens";
import type { Known, Vocabulary } from "./vocabulary";

export type Proposal = {
  /** What is put in. */
  text: string;
  kind: "word" | "field" | "attribute" | "class" | "value";
  /** What it means, or how many have it. */
  detail: string;
};

/** Proposals for what stands in `text` from `from` up to the cursor. */
export type Completion = { from: number; proposals: Proposal[] };

const operators = new Set([Equal, Unequal, AtMost, AtLeast, Less, More, Like]);
const isName = (token: IToken | undefined) => token !== undefined && /^(Word|Whole|Quoted)$/.test(token.tokenType.name);
const written = (text: string) => (standsBare(text, { asValue: true }) && !/^\d+$/.test(text) ? text : quote(text));

/** What a place in a text is for. */
type Place =
  | { scope: "image" | "object"; of: "class" }
  | { scope: "image" | "object"; of: "value"; field: string }
  | { scope: "image" | "object"; of: "start" };

/** Looks at what stands before the cursor. */
function placeAfter(tokens: readonly IToken[]): Place {
  // For each bracket that is open: what opened it.
  const open: ("group" | "conditions" | "classes" | { values: string })[] = [];
  let [afterHas, field]: [boolean, string] = [false, ""];
  let pending: { values: string } | null = null;
  tokens.forEach((token, at) => {
    const type = token.tokenType;
    const before = tokens[at - 1];
    if (type === Open) {
      open.push(
        afterHas && (isName(before) || before?.tokenType === CloseSet || before?.tokenType.name === "Any")
          ? "conditions"
          : "group",
      );
      afterHas = false;
    } else if (type === OpenSet) open.push(pending ?? "classes");
    else if (type === Close || type === CloseSet) open.pop();
    pending = null;
    if (type === Has || type === No) afterHas = true;
    else if (type === In || operators.has(type)) {
      field = before ? textOf(before) : "";
      pending = { values: field };
      afterHas = false;
    } else if (/^(And|Or|Not)$/.test(type.name)) afterHas = false;
  });
  const scope = open.includes("conditions") ? "object" : "image";
  const last = tokens.at(-1);
  const around = open.at(-1);
  if (last && operators.has(last.tokenType)) return { scope, of: "value", field };
  if (typeof around === "object" && (last?.tokenType === OpenSet || last?.tokenType === Comma))
    return { scope, of: "value", field: around.values };
  const namesClass = last?.tokenType === Has || last?.tokenType === No || around === "classes";
  const afterCount = afterHas && (last?.tokenType === Whole || last?.tokenType === To);
  return namesClass || afterCount ? { scope, of: "class" } : { scope, of: "start" };
}

const number = (count: number) => count.toLocaleString("en-US");
const known = (values: readonly Known[], kind: Proposal["kind"]): Proposal[] =>
  values.map(({ value, count }) => ({ text: written(value), kind, detail: number(count) }));

function valuesOf(field: string, scope: "image" | "object", vocabulary: Vocabulary): Proposal[] {
  const lower = field.toLowerCase();
  const fields: Record<string, FieldInfo> = scope === "image" ? imageFields : objectFields;
  const info = Object.hasOwn(fields, lower) ? fields[lower] : undefined;
  const listed = scope === "image" && Object.hasOwn(vocabulary.fields, lower) ? vocabulary.fields[lower] : undefined;
  if (listed) return known(listed, "value");
  if (info?.words) return info.words.map((text) => ({ text, kind: "value", detail: "" }));
  if (info?.kind === "truths") return ["yes", "no"].map((text) => ({ text, kind: "value", detail: "" }));
  const attribute = vocabulary[scope].find(({ name }) => name.toLowerCase() === lower);
  return attribute && !info ? known(attribute.values, "value") : [];
}

function fieldsOf(scope: "image" | "object", vocabulary: Vocabulary): Proposal[] {
  const fields: Record<string, FieldInfo> = scope === "image" ? imageFields : objectFields;
  return [
    ...Object.entries(fields).map(([text, { meaning }]): Proposal => ({ text, kind: "field", detail: meaning })),
    ...vocabulary[scope].map(({ name }): Proposal => {
      const taken = Object.hasOwn(fields, name.toLowerCase());
      return { text: taken ? `field ${quote(name)}` : written(name), kind: "attribute", detail: "attribute" };
    }),
  ];
}

/** What may stand at `cursor`, given what stands before it. Nothing where the text before cannot be read at all. */
export function completeAt(text: string, cursor: number, vocabulary: Vocabulary): Completion {
  const before = text.slice(0, cursor);
  const typed = /(?:"(?:[^"\\]|\\.)*|(?:(?!\.\.)[^\s(){},"=<>!])*)$/.exec(before)?.[0] ?? "";
  const from = cursor - typed.length;
  let tokens: IToken[];
  try {
    tokens = tokenise(text.slice(0, from));
  } catch {
    return { from, proposals: [] };
  }
  const expected = expectedAfter(tokens);
  const place = placeAfter(tokens);
  const words = expected
    // As a value, "no" is a word like others, and stands among the values where it is one.
    .filter((word) => word !== "the end" && !word.startsWith("a ") && !(word === "no" && place.of === "value"))
    .map((word): Proposal => ({ text: word, kind: "word", detail: "" }));
  const names = !expected.includes("a name")
    ? []
    : place.of === "class"
      ? known(vocabulary.classes, "class")
      : place.of === "value"
        ? valuesOf(place.field, place.scope, vocabulary)
        : fieldsOf(place.scope, vocabulary);
  const sought = typed.replace(/^"/, "").toLowerCase();
  const fits = ({ text: proposed }: Proposal) => proposed.replace(/^"/, "").toLowerCase().includes(sought);
  const begins = ({ text: proposed }: Proposal) => proposed.replace(/^"/, "").toLowerCase().startsWith(sought);
  const proposals = [...names, ...words].filter(fits);
  return { from, proposals: [...proposals.filter(begins), ...proposals.filter((one) => !begins(one))] };
}
