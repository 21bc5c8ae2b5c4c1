import { Bin } from "@/features/bin/bin";

export const metadata = { title: "Bin" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <Bin collection={Number(route["collection"])} />;
}
