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
            <Masthead />
            {children}
          </Providers>
        </NuqsAdapter>
      </body>
    </html>
  );
}
