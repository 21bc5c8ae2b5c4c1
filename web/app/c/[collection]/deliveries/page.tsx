import { Deliveries } from "@/features/deliveries/deliveries";

export const metadata = { title: "Deliveries" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <Deliveries collection={Number(route["collection"])} />;
}
