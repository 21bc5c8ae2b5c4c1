import { readingOptionsOfFormats } from "@larder/core/formats/reading-options";
import { answer } from "@/edge/answer";

export const GET = answer(() => Promise.resolve(readingOptionsOfFormats()));
