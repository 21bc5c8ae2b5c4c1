import { readingOptionsOfFormats } from "@larder/server/services/formats";
import { answer } from "@/edge/answer";

export const GET = answer(() => Promise.resolve(readingOptionsOfFormats()));
