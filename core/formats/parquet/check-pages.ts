/** Page headers of a table looked at before they are trusted: the table reader walks by the sizes they name. */
import { parquetSchema, type AsyncBuffer, type FileMetaData } from "hyparquet";
import { deserializeTCompactProtocol } from "hyparquet/src/thrift.js";
import { z } from "zod";
import { checkFirstKind, checkSecondKind } from "./check-runs";

const mostValues = 50_000_000;
const mostBytes = 2 ** 30;

const size = z.number().int().min(0).max(mostBytes);
const valuesSchema = z.object({
  field_1: z.number().int().min(0).max(mostValues),
  field_2: z.number().int().optional(),
});
/**
 * DataPageHeaderV2: 1 values, 2 nulls, 3 rows, 4 encoding, 5 and 6 lengths of definition and repetition levels, 7
 * whether compressed.
 */
const secondSchema = z.object({
  field_1: z.number().int().min(0).max(mostValues),
  field_2: z.number().int().min(0).max(mostValues),
  field_4: z.number().int(),
  field_5: size,
  field_6: size,
  field_7: z.boolean().optional(),
});
/**
 * parquet.thrift, PageHeader: 1 type, 2 uncompressed and 3 compressed size, 5 data, 7 dictionary and 8 second data
 * header.
 */
const headerSchema = z.object({
  field_1: z.number().int(),
  field_2: size,
  field_3: size,
  field_5: valuesSchema.optional(),
  field_7: valuesSchema.optional(),
  field_8: secondSchema.optional(),
});
type Header = z.infer<typeof headerSchema>;

const damaged = (where: string) => new Error(`a page of ${where} is damaged`);

/** The highest levels of the leaf a column's path leads to in the table's schema; null where it leads to none. */
function levelsOf(
  schema: ReturnType<typeof parquetSchema>,
  path: readonly string[],
): { maxRepetition: number; maxDefinition: number } | null {
  let node: ReturnType<typeof parquetSchema> | undefined = schema;
  const levels = { maxRepetition: 0, maxDefinition: 0 };
  for (const name of path) {
    node = node?.children.find((child) => child.element.name === name);
    const repetition = node?.element.repetition_type;
    if (repetition === "REPEATED") levels.maxRepetition++;
    if (repetition !== "REQUIRED") levels.maxDefinition++;
  }
  return node !== undefined && node.children.length === 0 ? levels : null;
}

/** Looks at the runs of a data page. Throws where they are damaged. */
function checkPage(
  page: Uint8Array,
  header: Header,
  codec: string,
  levels: { maxRepetition: number; maxDefinition: number },
): void {
  const { field_2: uncompressed, field_5: first, field_8: second } = header;
  if (first) checkFirstKind(page, { ...levels, codec, uncompressed, count: first.field_1, encoding: first.field_2 });
  else if (second)
    checkSecondKind(
      page,
      { ...levels, codec, uncompressed, count: second.field_1, encoding: second.field_4 },
      { repetition: second.field_6, definition: second.field_5 },
      second.field_7 !== false,
    );
}

/**
 * Walks the pages of one row group's columns. Throws where a column is none of the schema's, a header is damaged or a
 * page leaves its column: the reader starts all columns at once, and one that it stumbles over leaves the others'
 * errors to nobody.
 */
export async function checkPages(file: AsyncBuffer, metadata: FileMetaData, number: number): Promise<void> {
  const group = metadata.row_groups[number];
  if (!group) throw new Error("a row group is missing");
  const schema = parquetSchema(metadata);
  if (!(Number(group.num_rows) >= 0 && Number(group.num_rows) <= mostValues))
    throw new Error("a row group has no number of rows");
  for (const { meta_data: column } of group.columns) {
    if (!column) throw new Error("a column has no description");
    const name = column.path_in_schema.join(".");
    const levels = levelsOf(schema, column.path_in_schema);
    if (!levels) throw new Error(`the schema has no column ${name.slice(0, 40)}`);
    const start = Number(column.dictionary_page_offset || column.data_page_offset);
    const length = Number(column.total_compressed_size);
    if (!(
      start >= 0 &&
      length >= 0 &&
      start + length <= file.byteLength &&
      Number(column.num_values) >= 0 &&
      Number(column.num_values) <= mostValues
    ))
      throw damaged(name);
    const buffer = await file.slice(start, start + length);
    const reader = { view: new DataView(buffer), offset: 0 };
    while (reader.offset < length - 1) {
      const header = headerSchema.safeParse(deserializeTCompactProtocol(reader));
      if (!header.success) throw damaged(name);
      const at = reader.offset;
      reader.offset += header.data.field_3;
      if (reader.offset > length) throw damaged(name);
      checkPage(new Uint8Array(buffer, at, header.data.field_3), header.data, column.codec, levels);
    }
  }
}
