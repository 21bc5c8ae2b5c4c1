import { CompareVersions } from "@/features/versions/compare-versions";

export const metadata = { title: "Versions compared" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  return <CompareVersions collection={Number((await params)["collection"])} />;
}
