import { History } from "@/features/history/history";

export const metadata = { title: "History" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <History collection={Number(route["collection"])} />;
}
