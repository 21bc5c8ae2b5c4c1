"use client";
import { count } from "@/ui/words";
import type { SavingState } from "./session";

/** Whether what was done is saved. */
export function SavingWords({ saving }: { saving: SavingState }) {
  return (
    <span role="status" className={saving.is === "waiting" || saving.is === "refused" ? "text-[#f2c14e]" : ""}>
      {saving.is === "saved"
        ? "Saved"
        : saving.is === "saving"
          ? "Saving …"
          : saving.is === "waiting"
            ? `Larder does not answer; ${count(saving.changes, "change")} kept in this browser`
            : "Not saved"}
    </span>
  );
}
