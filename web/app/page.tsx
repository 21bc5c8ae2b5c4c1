import { Shelves } from "@/features/shelves/shelves";

export default function Page() {
  return <Shelves />;
}
