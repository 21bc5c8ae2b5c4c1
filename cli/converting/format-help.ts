/** `larder convert --help FORMAT`: what a format is, what it carries, and its options. */
import { declaredOptions, valuesText } from "@larder/core/formats/options";
import { describeCarries } from "@larder/core/formats/describe";
import { formatNamed } from "@larder/core/formats/registry";

export function formatHelp(name: string): string {
  const format = formatNamed(name);
  const sections = (["reading", "writing"] as const).flatMap((when) => {
    const options = declaredOptions(format, when);
    if (when === "writing" && !format.write) return [];
    return [
      `Options for ${when}:`,
      ...(options.length === 0 ? ["  none"] : []),
      ...options.flatMap((option) => [
        `  ${option.name}=${valuesText(option)}`,
        `      ${option.describes}`,
        `      default: ${option.default}; for example --option ${option.example}`,
      ]),
      "",
    ];
  });
  return [`${format.name}: ${format.title}`, `Carries ${describeCarries(format)}.`, "", ...sections].join("\n");
}
