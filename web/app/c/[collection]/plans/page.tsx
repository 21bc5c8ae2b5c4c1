import { Plans } from "@/features/plans/plans";

export const metadata = { title: "Plans" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <Plans collection={Number(route["collection"])} />;
}
