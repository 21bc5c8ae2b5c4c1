import type { Metadata } from "next";
import { headers } from "next/headers";
import { NuqsAdapter } from "nuqs/adapters/next/app";
import type { ReactNode } from "react";
import { Masthead } from "../features/masthead/masthead";
import { Providers } from "../features/live/providers";
import "./globals.css";

export const metadata: Metadata = {
  title: { default: "Larder", template: "%s · Larder" },
  description: "Labeled images in, frozen data sets out",
};
export const dynamic = "force-dynamic";

// Set before the first paint, so that a dark room never flashes white.
const themeScript = `try{var t=localStorage.getItem("larder-theme");document.documentElement.dataset.theme=t||(matchMedia("(prefers-color-scheme: dark)").matches?"dark":"light")}catch(e){}`;

export default async function RootLayout({ children }: { children: ReactNode }) {
  const nonce = (await headers()).get("x-nonce") ?? undefined;
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: themeScript }} />
      </head>
      <body>
        <NuqsAdapter>
          <Providers>
            <a
              href="#page"
              className="sr-only focus:not-sr-only focus:absolute focus:top-1 focus:left-1 focus:z-50 focus:rounded-md focus:bg-sheet focus:px-3 focus:py-1.5"
            >
              To the page
            </a>
            <Masthead />
            <div id="page" tabIndex={-1} className="outline-none">
              {children}
            </div>
          </Providers>
        </NuqsAdapter>
      </body>
    </html>
  );
}
