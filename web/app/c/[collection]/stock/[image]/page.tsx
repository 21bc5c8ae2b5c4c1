import { ImagePage } from "@/features/stock/image-page";

export const metadata = { title: "Image" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return <ImagePage collection={Number(route["collection"])} id={Number(route["image"])} />;
}
