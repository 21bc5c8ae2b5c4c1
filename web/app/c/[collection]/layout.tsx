import { UndoKeys } from "@/features/acts/undo-keys";
import { notFound } from "next/navigation";
import type { ReactNode } from "react";

/** An address whose collection is no number leads nowhere; one whose collection is gone is told so by its pages. */
export default async function Layout({
  params,
  children,
}: {
  params: Promise<{ collection: string }>;
  children: ReactNode;
}) {
  const { collection } = await params;
  if (!/^[1-9]\d{0,14}$/.test(collection)) notFound();
  return (
    <>
      <UndoKeys collection={Number(collection)} />
      {children}
    </>
  );
}
