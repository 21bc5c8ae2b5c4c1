import { packFormats } from "@/edge/pack-formats";
import { FlowSheet } from "@/features/plans/flow-sheet";

export const metadata = { title: "Plan" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <FlowSheet collection={Number(route["collection"])} id={Number(route["plan"])} formats={packFormats} />;
}
