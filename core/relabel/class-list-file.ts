/** A class list as a file: names alone as text, the short facts as CSV, everything as JSON; and back. */
import { stringify } from "csv-stringify/sync";
import { parse } from "csv-parse/sync";
import { z } from "zod";
import { attributeSchemaSchema } from "../model/attribute-schema";
import { Failure } from "../model/failure";
import { readClassNames } from "./class-names-file";

const point = z.number().int().min(0).max(999);

/** What a file says of a class; what it does not say stays as it is. Colours are numbers from 0, parents are names. */
export const classEntrySchema = z.object({
  name: z.string(),
  code: z.string().trim().max(8).optional(),
  colour: z.number().int().min(0).max(999).optional(),
  parent: z.string().nullable().optional(),
  supercategory: z.string().nullable().optional(),
  attributes: z.array(attributeSchemaSchema).max(100).optional(),
  keypoints: z.array(z.string()).max(1000).nullable().optional(),
  skeleton: z
    .array(z.tuple([point, point]))
    .max(5000)
    .nullable()
    .optional(),
  pairs: z
    .array(z.tuple([point, point]))
    .max(500)
    .nullable()
    .optional(),
});
export type ClassEntry = z.infer<typeof classEntrySchema>;

const fileSchema = z.object({ classes: z.array(classEntrySchema).max(50_000) });

export const classListKinds = ["txt", "csv", "json"] as const;
export type ClassListKind = (typeof classListKinds)[number];

export function classListText(entries: readonly ClassEntry[], kind: ClassListKind): string {
  if (kind === "txt") return entries.map(({ name }) => `${name}\n`).join("");
  if (kind === "json") return `${JSON.stringify({ classes: entries }, null, 2)}\n`;
  return stringify(
    entries.map(({ name, code, colour, parent }) => [name, code ?? "", colour ?? "", parent ?? ""]),
    { header: true, columns: ["name", "code", "colour", "parent"] },
  );
}

const unreadable = (why: string) => new Failure("class-list-invalid", `This is no class list: ${why}.`, 422);

function readJson(text: string): ClassEntry[] {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw unreadable("its JSON is broken");
  }
  const parsed = fileSchema.safeParse(Array.isArray(value) ? { classes: value } : value);
  if (parsed.success) return parsed.data.classes;
  const [issue] = parsed.error.issues;
  throw unreadable(`${issue?.path.join(".") ?? ""} ${issue?.message ?? "does not fit"}`);
}

const optionalNumber = (text: string | undefined) => (/^\d+$/.test(text ?? "") ? { colour: Number(text) } : {});

/** A CSV with a header that names more than the class; null where it is a plain list. */
function readFacts(text: string): ClassEntry[] | null {
  const rows = parse(text, { relax_column_count: true, skip_empty_lines: true, trim: true, bom: true });
  const header = rows[0]?.map((cell) => cell.toLowerCase()) ?? [];
  const [name, code, colour, parent] = ["name", "code", "colour", "parent"].map((title) => header.indexOf(title));
  if (name === undefined || name < 0 || [code, colour, parent].every((at) => at === undefined || at < 0)) return null;
  const cell = (row: readonly string[], at: number | undefined) => (at === undefined || at < 0 ? undefined : row[at]);
  return rows.slice(1).map((row) => ({
    name: row[name] ?? "",
    ...(cell(row, code) ? { code: cell(row, code) as string } : {}),
    ...optionalNumber(cell(row, colour)),
    ...(cell(row, parent) === undefined ? {} : { parent: cell(row, parent) || null }),
  }));
}

/**
 * Reads a class list by the kind its file's name tells: JSON, CSV (with a header of facts, or a plain column of names), or
 * a text with a name a line. Throws a Failure where it is none.
 */
export function readClassListFile(text: string, fileName: string): ClassEntry[] {
  if (/\.json$/i.test(fileName)) return readJson(text);
  const facts = /\.csv$/i.test(fileName) ? readFacts(text) : null;
  return facts ?? readClassNames(text, fileName).map((name) => ({ name }));
}
