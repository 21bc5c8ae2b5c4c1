import type { ReactNode } from "react";
import { BenchOfAddress } from "@/features/bench/bench-of-address";

/** The bench stands above the pages of its images: it stays as it is while one goes from one to the next. */
export default function Layout({ children }: { children: ReactNode }) {
  return (
    <>
      <BenchOfAddress />
      {children}
    </>
  );
}
