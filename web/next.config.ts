import type { NextConfig } from "next";
import path from "node:path";

/** Said with every answer, whatever it is. */
const everywhere = {
  "X-Content-Type-Options": "nosniff",
  "X-Frame-Options": "DENY",
  "Referrer-Policy": "same-origin",
  "Permissions-Policy": "camera=(), microphone=(), geolocation=(), payment=(), usb=(), browsing-topics=()",
  "Cross-Origin-Opener-Policy": "same-origin",
  "Cross-Origin-Resource-Policy": "same-origin",
};
/** What is no page runs nothing and shows itself in no frame, whatever bytes it holds. Pages: proxy.ts. */
const noPage = { "Content-Security-Policy": "default-src 'none'; frame-ancestors 'none'" };
/** OpenCV makes its code as it starts; its worker may do so, and may reach nothing. */
const codeMakingWorker = {
  "Content-Security-Policy":
    "default-src 'none'; script-src 'self' 'unsafe-eval' 'wasm-unsafe-eval'; connect-src data:; frame-ancestors 'none'",
};
const listed = (headers: Record<string, string>) => Object.entries(headers).map(([key, value]) => ({ key, value }));

const config: NextConfig = {
  headers: () =>
    Promise.resolve([
      { source: "/:path*", headers: listed(everywhere) },
      { source: "/api/:path*", headers: listed(noPage) },
      { source: "/packages/:path*", headers: listed(noPage) },
      { source: "/bench-worker/:path*", headers: listed(codeMakingWorker) },
    ]),
  // Nothing here uses it, and it would fetch and scale pictures for whoever asks.
  images: { unoptimized: true, remotePatterns: [], localPatterns: [] },
  transpilePackages: ["@larder/core", "@larder/server"],
  serverExternalPackages: [
    "sharp",
    "pdfjs-dist",
    "@napi-rs/canvas",
    "undici",
    "@aws-sdk/client-s3",
    "exifr",
    "pg",
    "pg-boss",
    "piscina",
    "pg-copy-streams",
    "yauzl",
    "yazl",
    "@tus/server",
    "@tus/file-store",
  ],
  turbopack: { root: path.join(import.meta.dirname, "..") },
  // Types are checked by `./larder test` over the whole workspace.
  typescript: { ignoreBuildErrors: true },
  poweredByHeader: false,
  devIndicators: false,
};

export default config;
