import { IntakeSheet } from "@/features/deliveries/intake-sheet";

export const metadata = { title: "Delivery" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <IntakeSheet collection={Number(route["collection"])} id={Number(route["delivery"])} />;
}
