import { Checks } from "@/features/checks/checks";

export const metadata = { title: "Checks" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <Checks collection={Number(route["collection"])} />;
}
