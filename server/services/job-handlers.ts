import type { JobKind } from "../db/schema";
import type { JobHandler } from "../jobs/run";
import { buildVersion } from "./building/build-version";
import { pack } from "./building/pack";
import { lookInto } from "./intake/look-into";
import { readDelivery } from "./intake/read-delivery";
import { takeInDelivery } from "./intake/take-in";

/** What a worker does for each kind of job. */
export const jobHandlers: Record<JobKind, JobHandler> = {
  "read-delivery": readDelivery,
  "look-into": lookInto,
  "take-in": takeInDelivery,
  "build-version": buildVersion,
  pack,
};
