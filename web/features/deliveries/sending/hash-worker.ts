/**
 * Computes SHA-256 of files away from the page. Takes { id, files }, answers { id, hashes }; "" for a file that cannot
 * be read.
 */
import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex } from "@noble/hashes/utils.js";

type Asked = { id: number; files: File[] };
const scope = self as unknown as {
  onmessage: (event: MessageEvent<Asked>) => void;
  postMessage: (message: { id: number; hashes: string[] }) => void;
};

async function hashOf(file: File): Promise<string> {
  try {
    const bytes = new Uint8Array(await file.arrayBuffer());
    // The browser's own is far faster, but it only works on secure addresses.
    if (crypto.subtle) return bytesToHex(new Uint8Array(await crypto.subtle.digest("SHA-256", bytes)));
    return bytesToHex(sha256(bytes));
  } catch {
    return "";
  }
}

scope.onmessage = ({ data }) => {
  void (async () => {
    const hashes: string[] = [];
    for (const file of data.files) hashes.push(await hashOf(file));
    scope.postMessage({ id: data.id, hashes });
  })();
};
