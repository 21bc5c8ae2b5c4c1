import { withoutBareNumbers } from "./json-elements";

/** Each line of a JSON-lines file, parsed; a line that is no JSON comes as `unreadable`. Bare NaN is read as null. */
export async function* jsonLines(
  stream: AsyncIterable<Uint8Array>,
): AsyncIterable<{ line: number; value?: unknown; unreadable?: string }> {
  const decoder = new TextDecoder("utf-8");
  let rest = "";
  let number = 0;
  const parsed = (text: string) => {
    number++;
    if (text.trim() === "") return null;
    try {
      return { line: number, value: JSON.parse(text) as unknown };
    } catch (error) {
      try {
        return { line: number, value: JSON.parse(withoutBareNumbers(text)) as unknown };
      } catch {
        return { line: number, unreadable: (error as Error).message };
      }
    }
  };
  for await (const chunk of stream) {
    const lines = (rest + decoder.decode(chunk, { stream: true })).split("\n");
    rest = lines.pop() ?? "";
    for (const line of lines) {
      const entry = parsed(line);
      if (entry) yield entry;
    }
  }
  const entry = parsed(rest + decoder.decode());
  if (entry) yield entry;
}
