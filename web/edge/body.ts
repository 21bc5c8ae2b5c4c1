/** Bodies of requests, read no further than they may be long. */
import { Failure } from "@larder/core/model/failure";

const tooLong = (most: number) =>
  new Failure(
    "body-too-long",
    `What was sent is longer than the ${Math.floor(most / 1024).toLocaleString("en-US")} kB that this takes.`,
    413,
  );

/** The bytes of a body of `most` bytes at most; throws a Failure (413) at the first byte more, whatever was announced. */
export async function readBytes(request: Request, most: number): Promise<Uint8Array<ArrayBuffer>> {
  if (Number(request.headers.get("content-length") ?? 0) > most) throw tooLong(most);
  const chunks: Uint8Array[] = [];
  let length = 0;
  const reader = request.body?.getReader();
  for (;;) {
    const part = await reader?.read();
    if (!part || part.done) break;
    length += part.value.length;
    if (length > most) {
      await reader?.cancel().catch(() => undefined);
      throw tooLong(most);
    }
    chunks.push(part.value);
  }
  const whole = new Uint8Array(length);
  let at = 0;
  for (const chunk of chunks) {
    whole.set(chunk, at);
    at += chunk.length;
  }
  return whole;
}

/** The JSON of a body, null where there is none. Throws a Failure where it is too long, of another type or no JSON. */
export async function readJson(request: Request, most: number): Promise<unknown> {
  const bytes = await readBytes(request, most);
  if (bytes.length === 0) return null;
  const type = request.headers.get("content-type")?.split(";")[0]?.trim().toLowerCase() ?? "";
  if (type !== "application/json")
    throw new Failure(
      "type-unsupported",
      "What is sent here is JSON: say so with content-type: application/json.",
      415,
    );
  try {
    return JSON.parse(new TextDecoder("utf-8", { fatal: true }).decode(bytes)) as unknown;
  } catch {
    throw new Failure("json-broken", "What was sent is not JSON.", 400);
  }
}
