import { packFormats } from "@/edge/pack-formats";
import { VersionPage } from "@/features/versions/version-page";

export const metadata = { title: "Version" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return (
    <VersionPage collection={Number(route["collection"])} version={Number(route["number"])} formats={packFormats} />
  );
}
