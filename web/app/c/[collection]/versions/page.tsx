import { packFormats } from "@/edge/pack-formats";
import { Versions } from "@/features/versions/versions";

export const metadata = { title: "Versions" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <Versions collection={Number(route["collection"])} formats={packFormats} />;
}
