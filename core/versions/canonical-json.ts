import canonicalize from "canonicalize";

/** JSON in the canonical form of RFC 8785, so that equal values are equal texts. Throws where a value has no JSON. */
export function canonicalJson(value: unknown): string {
  const text = canonicalize(value);
  if (text === undefined) throw new Error("this value has no JSON");
  return text;
}
