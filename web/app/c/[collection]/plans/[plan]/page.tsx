import { FlowSheet } from "@/features/plans/flow-sheet";
import { declaredOptions } from "@larder/core/formats/options";
import { formats } from "@larder/core/formats/registry";

export const metadata = { title: "Plan" };

export default async function Page({ params }: { params: Promise<Record<string, string>> }) {
  const route = await params;
  return (
    <FlowSheet
      collection={Number(route["collection"])}
      id={Number(route["plan"])}
      formats={formats
        .filter((format) => format.write)
        .map((format) => ({ name: format.name, title: format.title, options: declaredOptions(format, "writing") }))}
    />
  );
}
