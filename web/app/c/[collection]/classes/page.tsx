import { Classes } from "@/features/classes/classes";

export const metadata = { title: "Classes" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <Classes collection={Number(route["collection"])} />;
}
