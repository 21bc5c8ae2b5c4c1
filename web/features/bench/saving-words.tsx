"use client";
import { count } from "@/ui/words";
import type { SavingState } from "./session";

const waitingWords = {
  server: "Larder does not answer",
  "sign-in": "You are signed out: sign in again in another tab",
};

/** Whether what was done is saved. */
export function SavingWords({ saving }: { saving: SavingState }) {
  return (
    <span role="status" className={saving.is === "waiting" || saving.is === "refused" ? "text-[#f2c14e]" : ""}>
      {saving.is === "saved"
        ? "Saved"
        : saving.is === "saving"
          ? "Saving …"
          : saving.is === "waiting"
            ? `${waitingWords[saving.for]}; ${count(saving.changes, "change")} kept in this browser`
            : "Not saved"}
    </span>
  );
}
