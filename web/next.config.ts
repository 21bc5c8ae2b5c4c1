import type { NextConfig } from "next";
import path from "node:path";

const config: NextConfig = {
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
