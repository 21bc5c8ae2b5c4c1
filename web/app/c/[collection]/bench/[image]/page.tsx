import { Bench } from "@/features/bench/bench";

export const metadata = { title: "Bench" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  const image = Number(route["image"]);
  // Another image is another piece of work: nothing of the last one's drawing goes along.
  return <Bench key={image} collection={Number(route["collection"])} id={image} />;
}
