"use client";
import { Button } from "@/ui/button";
import { Empty } from "@/ui/states";

/** What is shown where a page itself fails: nothing is lost, and what can be done. */
export default function PageFailed({ reset }: { error: Error; reset: () => void }) {
  return (
    <Empty title="This page could not be shown" action={<Button onClick={reset}>Try again</Button>}>
      What was saved is safe. If it happens again, the logs folder in Larder's home says why.
    </Empty>
  );
}
