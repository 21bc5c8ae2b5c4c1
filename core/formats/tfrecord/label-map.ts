/** label_map.pbtxt: `item { id: 1 name: 'roll' }`. */
import { textOf } from "../../model/file-tree";

const controls = { a: 7, b: 8, f: 12, n: 10, r: 13, t: 9, v: 11 };
const controlCodes = new Map<string, number>(Object.entries(controls));

/**
 * A text between quotes with its escapes resolved. Octal and hexadecimal ones are bytes of UTF-8. Source: Protocol
 * Buffers, text format specification, "String literals".
 */
function unescaped(literal: string): string {
  const encoder = new TextEncoder();
  const bytes: number[] = [];
  const escape = /\\(?:([0-7]{1,3})|[xX]([0-9a-fA-F]{1,2})|u([0-9a-fA-F]{4})|U([0-9a-fA-F]{8})|([\s\S]))|[^\\]+|\\$/g;
  for (const [whole, octal, hex, short, long, sign] of literal.matchAll(escape)) {
    const point = short ?? long;
    if (octal !== undefined) bytes.push(parseInt(octal, 8) & 0xff);
    else if (hex !== undefined) bytes.push(parseInt(hex, 16));
    else if (point !== undefined) {
      const code = parseInt(point, 16);
      bytes.push(...encoder.encode(code <= 0x10ffff ? String.fromCodePoint(code) : "\uFFFD"));
    } else if (sign !== undefined)
      bytes.push(...(controlCodes.has(sign) ? [controlCodes.get(sign) as number] : encoder.encode(sign)));
    else bytes.push(...encoder.encode(whole));
  }
  return textOf(Uint8Array.from(bytes));
}

/** A text as it stands between single quotes. */
function escaped(text: string): string {
  return text.replace(/[\\'\u0000-\u001f\u007f]/g, (sign) => {
    if (sign === "\\" || sign === "'") return `\\${sign}`;
    return `\\${sign.charCodeAt(0).toString(8).padStart(3, "0")}`;
  });
}

/** Names by id; `display_name` counts where there is no `name`. */
export function parseLabelMap(text: string): Map<number, string> {
  const names = new Map<number, string>();
  for (const [, body = ""] of text.matchAll(/item\s*\{((?:[^{}"']|"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*')*)\}/g)) {
    const entry: Record<string, string> = {};
    for (const [, key = "", double, single, plain] of body.matchAll(
      /(\w+)\s*:\s*(?:"((?:[^"\\]|\\.)*)"|'((?:[^'\\]|\\.)*)'|([^\s,;}]+))/g,
    )) {
      entry[key] = plain ?? unescaped(double ?? single ?? "");
    }
    const id = Number(entry["id"]);
    const name = entry["name"] ?? entry["display_name"];
    if (Number.isInteger(id) && name !== undefined) names.set(id, name);
  }
  return names;
}

export function formatLabelMap(names: readonly string[]): string {
  return names.map((name, n) => `item {\n  id: ${n + 1}\n  name: '${escaped(name)}'\n}\n`).join("");
}
