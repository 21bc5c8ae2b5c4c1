/** Patterns that name groups of images. They run in time that grows with the text alone (RE2), whatever they are. */
import { RE2JS } from "re2js";

const longestPattern = 500;

/** The pattern made ready: of a base name its first group, null where it does not match; or what is wrong with it. */
export function groupPattern(text: string): ((name: string) => string | null) | string {
  if (text.length > longestPattern) return `A pattern has ${longestPattern} characters at most.`;
  try {
    const pattern = RE2JS.compile(text);
    if (pattern.groupCount() < 1)
      return "The pattern needs a group in brackets: what it holds names the group of images.";
    return (name) => {
      const matcher = pattern.matcher(name);
      return matcher.find() ? matcher.group(1) : null;
    };
  } catch (error) {
    return `This is no pattern: ${error instanceof Error ? error.message : String(error)}.`;
  }
}
