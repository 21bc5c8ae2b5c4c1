import type { JobKind } from "../db/schema";
import type { JobHandler } from "../jobs/handler";
import { emptyBinHandler, housekeepingHandler } from "./bin";
import { answerPartHandler } from "./checks/answer-part";
import { buildVersion } from "./building/build-version";
import { pack } from "./building/pack";
import { deleteCollectionHandler } from "./delete-collection";
import { lookInto } from "./intake/look-into";
import { putAside } from "./intake/put-aside";
import { readDelivery } from "./intake/read-delivery";
import { takeInDelivery } from "./intake/take-in";
import { compareLooksHandler } from "./learning/compare-looks";
import { learnHandler } from "./learning/learn";
import { actHandler } from "./labels/run-act";

/** What a worker does for each kind of job. */
export const jobHandlers: Record<JobKind, JobHandler> = {
  "read-delivery": readDelivery,
  "look-into": lookInto,
  "take-in": takeInDelivery,
  "put-aside": putAside,
  act: actHandler,
  "build-version": buildVersion,
  pack,
  "empty-bin": emptyBinHandler,
  "delete-collection": deleteCollectionHandler,
  housekeeping: housekeepingHandler,
  learn: learnHandler,
  "compare-looks": compareLooksHandler,
  "answer-part": answerPartHandler,
};
