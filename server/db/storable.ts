/**
 * What PostgreSQL cannot keep is taken out of texts before they are sent: NUL, which no text of it may hold, and halves of
 * surrogate pairs, which are no Unicode (its documentation, "JSON Types").
 */

/** A text without NULs, each half of a surrogate pair replaced by U+FFFD. */
export function storableText(text: string): string {
  return text.toWellFormed().replaceAll("\u0000", "");
}

/**
 * The escapes of a NUL or of half a surrogate pair, as JSON.stringify writes them (whole pairs it leaves as they are); a
 * backslash that is itself escaped begins none.
 */
const unstorable = /(?<=(?:^|[^\\])(?:\\\\)*)\\u(0000|d[89a-f][0-9a-f]{2})/g;

/** The same for JSON as JSON.stringify writes it. */
export function storableJson(json: string): string {
  if (!json.includes("\\u0000") && !json.includes("\\ud")) return json;
  return json.replace(unstorable, (_, code: string) => (code === "0000" ? "" : "\\ufffd"));
}
