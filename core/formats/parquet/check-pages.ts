/** Page headers of a table looked at before they are trusted: the table reader walks by the sizes they name. */
import { parquetSchema, type AsyncBuffer, type FileMetaData } from "hyparquet";
import { deserializeTCompactProtocol } from "hyparquet/src/thrift.js";
import { z } from "zod";

const mostValues = 50_000_000;
const mostBytes = 2 ** 30;

const size = z.number().int().min(0).max(mostBytes);
const valuesSchema = z.object({ field_1: z.number().int().min(0).max(mostValues) });
/** parquet.thrift, PageHeader: 1 type, 2 uncompressed and 3 compressed size, 5 data, 7 dictionary and 8 second data header. */
const headerSchema = z.object({ field_1: z.number().int(), field_2: size, field_3: size, field_5: valuesSchema.optional(), field_7: valuesSchema.optional(), field_8: valuesSchema.optional() });

const damaged = (where: string) => new Error(`a page of ${where} is damaged`);

/** True where a column's path leads to a leaf of the table's schema. */
function leadsToLeaf(schema: ReturnType<typeof parquetSchema>, path: readonly string[]): boolean {
  let node: ReturnType<typeof parquetSchema> | undefined = schema;
  for (const name of path) node = node?.children.find((child) => child.element.name === name);
  return node !== undefined && node.children.length === 0;
}

/**
 * Walks the pages of one row group's columns. Throws where a column is none of the schema's, a header is damaged or a
 * page leaves its column: the reader starts all columns at once, and one that it stumbles over leaves the others' errors to nobody.
 */
export async function checkPages(file: AsyncBuffer, metadata: FileMetaData, number: number): Promise<void> {
  const group = metadata.row_groups[number];
  if (!group) throw new Error("a row group is missing");
  const schema = parquetSchema(metadata);
  if (!(Number(group.num_rows) >= 0 && Number(group.num_rows) <= mostValues)) throw new Error("a row group has no number of rows");
  for (const { meta_data: column } of group.columns) {
    if (!column) throw new Error("a column has no description");
    const name = column.path_in_schema.join(".");
    if (!leadsToLeaf(schema, column.path_in_schema)) throw new Error(`the schema has no column ${name.slice(0, 40)}`);
    const start = Number(column.dictionary_page_offset || column.data_page_offset);
    const length = Number(column.total_compressed_size);
    if (!(start >= 0 && length >= 0 && start + length <= file.byteLength && Number(column.num_values) >= 0 && Number(column.num_values) <= mostValues)) throw damaged(name);
    const buffer = await file.slice(start, start + length);
    const reader = { view: new DataView(buffer), offset: 0 };
    while (reader.offset < length - 1) {
      const header = headerSchema.safeParse(deserializeTCompactProtocol(reader));
      if (!header.success) throw damaged(name);
      reader.offset += header.data.field_3;
      if (reader.offset > length) throw damaged(name);
    }
  }
}
