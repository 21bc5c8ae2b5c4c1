import { packageFormats } from "@larder/core/formats/registry";
import { Stock } from "@/features/stock/stock";

export const metadata = { title: "Stock" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <Stock collection={Number(route["collection"])} formats={packageFormats} />;
}
