import { answer } from "@/edge/answer";
import {
  dropVersionRenderings,
  newestRenderings,
  restoreVersionRenderings,
} from "@larder/server/services/version-page";

const shown = 12;

export const GET = answer(({ actor, id }) => newestRenderings(actor, id(), shown));

export const POST = answer(({ actor, id }) => restoreVersionRenderings(actor, id()));

export const DELETE = answer(({ actor, id }) => dropVersionRenderings(actor, id()));
