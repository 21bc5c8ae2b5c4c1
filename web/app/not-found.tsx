import { Empty } from "@/ui/states";
import { Button } from "@/ui/button";
import Link from "next/link";

export default function NotFound() {
  return (
    <Empty
      title="There is nothing at this address"
      action={
        <Button asChild>
          <Link href="/">To the shelves</Link>
        </Button>
      }
    >
      It may have been deleted, or the link was cut short.
    </Empty>
  );
}
