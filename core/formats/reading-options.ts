import { declaredOptions } from "./options";
import { formats } from "./registry";

/** A choice that a format leaves for reading it. */
export type ReadOption = { name: string; values: string[]; default: string; describes: string };

/** The choices each format leaves for reading it, by the format's name. */
export function readingOptionsOfFormats(): Record<string, ReadOption[]> {
  return Object.fromEntries(
    formats.map((format) => [
      format.name,
      declaredOptions(format, "reading").flatMap(({ name, values, default: standard, describes }) =>
        typeof values === "string" ? [] : [{ name, values: [...values], default: standard, describes }],
      ),
    ]),
  );
}
