/** Pictures as answers: of one fixed type, kept by the browser of whoever may see them, asked for anew by their tag. */
import { createHash } from "node:crypto";

/** Answers with a picture, or that the one the browser has is still the same (RFC 9110, section 13.1.2). */
export function pictureAnswer(request: Request, bytes: Uint8Array, type: string): Response {
  const tag = `"${createHash("sha256").update(bytes).digest("base64url")}"`;
  const headers = { etag: tag, "cache-control": "private, max-age=600, must-revalidate" };
  const known = request.headers
    .get("if-none-match")
    ?.split(",")
    .map((value) => value.trim().replace(/^W\//, ""));
  if (known?.includes(tag)) return new Response(null, { status: 304, headers });
  return new Response(new Uint8Array(bytes), { headers: { ...headers, "content-type": type } });
}
