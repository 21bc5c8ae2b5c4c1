import { FirstOnBench } from "@/features/bench/first-on-bench";

export const metadata = { title: "Bench" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <FirstOnBench collection={Number(route["collection"])} />;
}
