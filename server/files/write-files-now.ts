import { writeFileSync } from "node:fs";

export type SmallFile = { file: string; content: string | Uint8Array };
/** What went wrong; nothing where all went well. */
export type FilesWritten = { code?: string | undefined; message?: string };

/**
 * Writes files one after the other, in this thread; none may be there already. Ends at the first that cannot be
 * written.
 */
export function writeFilesNow(files: readonly SmallFile[]): FilesWritten {
  try {
    for (const { file, content } of files) writeFileSync(file, content, { flag: "wx" });
    return {};
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException;
    return { code, message };
  }
}
