/** Says of every page what may run on it. */
import { NextResponse, type NextRequest } from "next/server";
import { randomBytes } from "node:crypto";

/**
 * Only scripts that carry this answer's nonce run, and Larder's own files; nothing is fetched from elsewhere, and no page
 * elsewhere shows Larder in a frame. Styles may stand in attributes: widths of bars and places of boxes are such.
 */
const policy = (nonce: string) =>
  [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}'`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "worker-src 'self' blob:",
    "connect-src 'self'",
    "font-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join("; ");

export function proxy(request: NextRequest): Response {
  const nonce = randomBytes(16).toString("base64");
  const headers = new Headers(request.headers);
  headers.set("x-nonce", nonce);
  // Read by the framework, which gives the nonce to the scripts it puts on the page.
  headers.set("content-security-policy", policy(nonce));
  const response = NextResponse.next({ request: { headers } });
  response.headers.set("content-security-policy", policy(nonce));
  return response;
}

/** Everything but files that never change and routes, which run nothing: bodies pass by here unread. */
export const config = { matcher: ["/((?!api/|packages/|_next/|bench-worker/|icon.svg).*)"] };
