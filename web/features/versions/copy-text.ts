import { toast } from "sonner";

/** Puts a text on the clipboard, or shows it where that is not allowed. `what` begins the sentence that says so. */
export async function copyText(text: string, what: string) {
  try {
    await navigator.clipboard.writeText(text);
    toast(`${what} is copied.`);
  } catch {
    toast(text, { duration: 15_000 });
  }
}
