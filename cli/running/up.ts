import { blobs } from "@larder/server/blobs/store";
import { closePool } from "@larder/server/db/database";
import { migrate } from "@larder/server/db/migrate";
import { closeQueue } from "@larder/server/jobs/queue";
import { settings } from "@larder/server/settings";
import { existsSync, rmSync } from "node:fs";
import path from "node:path";
import { createInterface } from "node:readline/promises";
import { buildWeb } from "./build-web";
import { removeCluster, startCluster, stopCluster } from "@larder/server/db/cluster";
import { loadDemo } from "./load-demo";
import {
  alone,
  checkPort,
  runningInstance,
  runningSources,
  startSupervisor,
  stopSupervisor,
  troubleFile,
  untilAnswers,
} from "./processes";

const say = (words: string) => console.error(words);

/** Starts everything that does not run yet and prints the address once the page answers. */
export async function up(root: string): Promise<void> {
  const { home } = settings();
  await alone(home, () => upAlone(root));
}

async function upAlone(root: string): Promise<void> {
  const { home, host, port, standInPort, databaseUrl, demoShare } = settings();
  const url = `http://${host === "0.0.0.0" ? "127.0.0.1" : host}:${port}`;
  const running = runningInstance(home);
  // Said before anything is begun; what runs for this home has its ports already.
  if (running === null) {
    await stopSupervisor(home);
    await checkPort(url, "LARDER_PORT");
    if (process.env["LARDER_BUCKETS"] === undefined)
      await checkPort(`http://127.0.0.1:${standInPort}`, "LARDER_STAND_IN_PORT");
  }
  if (!databaseUrl) {
    say("Starting PostgreSQL …");
    await startCluster(home);
  }
  await migrate();
  say("Looking at the pages' sources …");
  const { anew, sources } = buildWeb(root);
  if (anew) say("The pages were built anew.");
  // Tests build the pages too: what runs may be older than what stands, even where nothing had to be built now.
  const stays = running !== null && runningSources(home) === sources && !existsSync(troubleFile(home));
  if (!stays) await stopSupervisor(home);
  await blobs().bringUp();
  const instance = stays ? running : startSupervisor(root, home, sources);
  await untilAnswers(url, home, instance, 60);
  await loadDemo(home, demoShare, say);
  await closeQueue();
  await closePool();
  console.log(url);
}

export async function down(): Promise<void> {
  const { home } = settings();
  await alone(home, async () => {
    const stopped = await stopSupervisor(home);
    const database = stopCluster(home);
    say(stopped || database ? "Stopped." : "Nothing of Larder was running.");
  });
}

/** Empties Larder: database, blobs, uploads. Asks first unless `yes`. */
export async function reset(yes: boolean): Promise<void> {
  const { home, databaseUrl } = settings();
  if (databaseUrl) throw new Error("The database is configured from outside (LARDER_DATABASE_URL); empty it there.");
  if (!yes) {
    const prompt = createInterface({ input: process.stdin, output: process.stderr });
    const answer = await prompt.question(
      `This deletes every collection, image and version in ${home}. Type "empty" to go on: `,
    );
    prompt.close();
    if (answer.trim() !== "empty") {
      say("Nothing was touched.");
      process.exitCode = 1;
      return;
    }
  }
  await down();
  removeCluster(home);
  for (const folder of ["store", "uploads", "logs"]) rmSync(path.join(home, folder), { recursive: true, force: true });
  say("Larder is empty.");
}
