/** Options as words `KEY=VALUE`, checked against what the formats of a run declare. */
import { Failure } from "../model/failure";
import { frameOptions } from "./label-frame";
import type { Format, OptionDeclaration, Options } from "./format";

/** Every writer of loose pictures takes this; see write-package.ts. */
export const imagesOption: OptionDeclaration = {
  name: "images",
  values: ["copy", "link", "none"],
  default: "copy",
  describes: "whether pictures are copied byte for byte, hard-linked where they lie on the same disk, or left out",
  example: "images=none",
  when: "writing",
};

/** What `format` takes in one direction. */
export function declaredOptions(format: Format, when: "reading" | "writing"): OptionDeclaration[] {
  const known = format.options.filter((option) => option.when === when);
  if (when === "reading") return format.carries.shapes.length > 0 ? [...known, ...frameOptions] : known;
  return format.write && format.loosePictures ? [...known, imagesOption] : known;
}

/** What a declaration takes, as one word for people. */
export function valuesText({ values }: OptionDeclaration): string {
  return typeof values === "string" ? values : values.join("|");
}

function checked(declaration: OptionDeclaration, value: string): string {
  const fits = declaration.values === "<number>" ? /^\d+(\.\d+)?$/.test(value) : declaration.values.includes(value);
  if (!fits)
    throw new Failure("usage", `--option ${declaration.name} takes ${valuesText(declaration)}, not "${value}".`);
  return value;
}

/**
 * Of options that were chosen for reading, those that `format` declares: the others were meant for another way to read
 * the source. Throws a Failure for a value outside its declaration.
 */
export function readingOptions(format: Format, chosen: Options): Options {
  const declared = declaredOptions(format, "reading");
  return Object.fromEntries(
    declared.flatMap((option) => {
      const value = chosen[option.name];
      return value === undefined ? [] : [[option.name, checked(option, value)]];
    }),
  );
}

/** Writing options of a format, each declared and with a value that it takes. Throws a Failure where one is not. */
export function checkedOptions(format: Format, options: Options): Options {
  const declared = declaredOptions(format, "writing");
  for (const [name, value] of Object.entries(options)) {
    const declaration = declared.find((option) => option.name === name);
    if (!declaration)
      throw new Failure(
        "usage",
        `${format.name} has no option "${name}". ${declared.length > 0 ? `There are: ${declared.map((option) => option.name).join(", ")}.` : "There is none."}`,
      );
    checked(declaration, value);
  }
  return options;
}

/**
 * Sorts `KEY=VALUE` words into options for reading `source` and for writing `target`. A writer's `write-X` is also
 * taken from plain `X` where the reader has no such option. Throws a Failure for a word that is no pair, a name that
 * neither format declares, or a value outside its declaration.
 */
export function sortOptions(
  words: readonly string[],
  source: Format,
  target?: Format,
): { reading: Options; writing: Options } {
  const reading: Record<string, string> = {};
  const writing: Record<string, string> = {};
  const forReading = declaredOptions(source, "reading");
  const forWriting = target ? declaredOptions(target, "writing") : [];
  for (const word of words) {
    const at = word.indexOf("=");
    if (at < 1) throw new Failure("usage", `--option takes KEY=VALUE, not "${word}".`);
    const [name, value] = [word.slice(0, at), word.slice(at + 1)];
    const read = forReading.find((option) => option.name === name);
    const write =
      forWriting.find((option) => option.name === name) ??
      (read ? undefined : forWriting.find((option) => option.name === `write-${name}`));
    if (!read && !write) {
      const known = [...forReading, ...forWriting].map((option) => option.name);
      throw new Failure(
        "usage",
        `There is no option "${name}" for ${source.name}${target ? ` to ${target.name}` : ""}. ${known.length > 0 ? `There are: ${[...new Set(known)].join(", ")}.` : "There is none."}`,
      );
    }
    if (read) reading[name] = checked(read, value);
    if (write) writing[write.name] = checked(write, value);
  }
  return { reading, writing };
}
