/** A process that runs one job after the other; any number of them work side by side, on any number of machines. */
import { closePool } from "@larder/server/db/database";
import { closeQueue } from "@larder/server/jobs/queue";
import { work } from "@larder/server/jobs/work";
import { jobHandlers } from "@larder/server/services/job-handlers";
import { noteOldNearPairs } from "@larder/server/services/intake/old-near-pairs";
import { keepWhatIsLearned, startLearning } from "@larder/server/services/learning/learn";
import { clearLeftovers } from "@larder/server/services/leftovers";

const endsWell = await clearLeftovers();
const stop = await work(jobHandlers, 1);
console.log(`${new Date().toISOString()} worker ready`);
void noteOldNearPairs()
  .then(startLearning)
  .then(keepWhatIsLearned)
  .catch((error: unknown) => console.error(error));

for (const signal of ["SIGTERM", "SIGINT"] as const) {
  process.once(signal, () => {
    stop();
    // What runs keeps its lease until that lapses, then another worker goes on with it.
    void Promise.allSettled([closeQueue(), closePool()]).then(() => {
      endsWell();
      process.exit(0);
    });
  });
}
