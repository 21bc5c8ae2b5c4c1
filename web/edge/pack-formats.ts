import { declaredOptions } from "@larder/core/formats/options";
import { formats } from "@larder/core/formats/registry";
import type { PackFormat } from "@/features/formats/option-rows";

/** The formats that can be written, as pages that pack have to know them. */
export const packFormats: readonly PackFormat[] = formats
  .filter((format) => format.write)
  .map((format) => ({
    name: format.name,
    title: format.title,
    training: format.training,
    options: declaredOptions(format, "writing"),
  }));
