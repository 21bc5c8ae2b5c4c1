import { redirect } from "next/navigation";

export default async function Page({ params }: { params: Promise<{ collection: string }> }) {
  redirect(`/c/${(await params).collection}/stock`);
}
