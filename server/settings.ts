/** Settings from the environment, parsed once. The README lists them. */
import path from "node:path";
import { fileURLToPath } from "node:url";
import { z } from "zod";

const root = process.env["LARDER_ROOT"] ?? path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const megabytes = z.coerce
  .number()
  .positive()
  .transform((value) => value * 1024 * 1024);

const schema = z.object({
  LARDER_HOME: z.string().default(path.join(root, ".larder")),
  LARDER_HOST: z.string().default("127.0.0.1"),
  LARDER_HOSTS: z.string().default(""),
  LARDER_PORT: z.coerce.number().int().min(1).max(65535).default(4600),
  LARDER_DATABASE_URL: z.string().optional(),
  LARDER_DATABASE_SYNC: z.enum(["on", "off"]).default("on"),
  LARDER_JOBS_AT_ONCE: z.coerce.number().int().min(1).max(64).default(2),
  LARDER_IMAGES_AT_ONCE: z.coerce.number().int().min(1).max(64).default(4),
  LARDER_DEMO_SHARE: z.coerce.number().min(0).max(10).default(1),
  LARDER_MAX_ARCHIVE_MB: megabytes.default(2 * 1024 * 1024 * 1024 * 1024),
  LARDER_MAX_ENTRY_MB: megabytes.default(8 * 1024 * 1024 * 1024),
  LARDER_MAX_RATIO: z.coerce.number().positive().default(200),
  LARDER_MAX_MEGAPIXELS: z.coerce.number().positive().default(200),
  LARDER_MAX_FETCH_MB: megabytes.default(512 * 1024 * 1024),
  LARDER_FETCH_SECONDS: z.coerce.number().positive().default(60),
  LARDER_FOLDERS: z.string().optional(),
  LARDER_ADDRESSES_ALLOWED: z.string().optional(),
  LARDER_BUCKETS: z.string().optional(),
  LARDER_SNAPSHOT_MB: megabytes.default(512 * 1024 * 1024),
  LARDER_COMPARED_AT_ONCE: z.coerce.number().int().min(0).default(10_000),
  LARDER_BIN_DAYS: z.coerce.number().min(0).default(30),
  LARDER_STAND_IN_PORT: z.coerce.number().int().min(1).max(65535).default(4610),
});

const bucketSchema = z.object({
  name: z.string().min(1),
  endpoint: z.url().optional(),
  region: z.string().default("us-east-1"),
  bucket: z.string().min(1),
  accessKeyId: z.string().min(1),
  secretAccessKey: z.string().min(1),
});
export type Bucket = z.infer<typeof bucketSchema>;

/** The simulated bucket that ships with Larder, as long as no other is configured. */
function standInBucket(port: number): Bucket {
  return {
    name: "Millrace store",
    endpoint: `http://127.0.0.1:${port}`,
    region: "us-east-1",
    bucket: "millrace",
    accessKeyId: "millrace",
    secretAccessKey: "millrace-secret",
  };
}

function bucketsFrom(json: string | undefined, port: number): Bucket[] {
  if (json === undefined) return [standInBucket(port)];
  try {
    return z.array(bucketSchema).parse(JSON.parse(json));
  } catch {
    throw new Error(
      "The setting LARDER_BUCKETS does not fit: it is a JSON list of {name, endpoint, region, bucket, accessKeyId, secretAccessKey}.",
    );
  }
}

/** Folders by their base names, as deliveries remember them; of two of one name the second is told apart by a number. */
function foldersFrom(list: string): Settings["folders"] {
  const names = new Set<string>();
  return list
    .split(path.delimiter)
    .filter((folder) => folder !== "")
    .map((folder) => {
      const place = path.resolve(folder);
      let name = path.basename(place);
      for (let n = 2; names.has(name); n++) name = `${path.basename(place)} (${n})`;
      names.add(name);
      return { name, place };
    });
}

export type Settings = {
  /** Where the sources lie. */
  root: string;
  home: string;
  host: string;
  /** Names beside loopback's that requests may come under, in small letters. */
  hosts: string[];
  port: number;
  databaseUrl: string | undefined;
  /** Whether the database that Larder starts waits until the disk has what it wrote. */
  databaseSync: boolean;
  jobsAtOnce: number;
  imagesAtOnce: number;
  demoShare: number;
  limits: { archiveBytes: number; entryBytes: number; ratio: number; pixels: number };
  /** Folders of this machine that deliveries may be read from. */
  folders: { name: string; place: string }[];
  buckets: Bucket[];
  /**
   * Which web addresses may be asked (files/fetch-address), how much may come and how long one answer may take, in
   * milliseconds.
   */
  addresses: { allowed: string[]; maxBytes: number; timeout: number };
  standInPort: number;
  /** What snapshots of stocks may take in memory before those asked for longest ago go. */
  snapshotBytes: number;
  /** So many objects and images are compared by their looks while somebody waits; more by a job. */
  comparedAtOnce: number;
  /** Days that an image lies in the bin before it goes for good. */
  binDays: number;
};

/** The entries of a setting that is a list with commas. */
const listIn = (text: string) =>
  text
    .split(",")
    .map((entry) => entry.trim())
    .filter((entry) => entry !== "");

/** Parses an environment; throws with the setting's name where a value does not fit. */
export function parseSettings(environment: Record<string, string | undefined>): Settings {
  const parsed = schema.safeParse(environment);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    throw new Error(`The setting ${issue?.path.join(".")} does not fit: ${issue?.message}`);
  }
  const values = parsed.data;
  return {
    root,
    home: path.resolve(values.LARDER_HOME),
    host: values.LARDER_HOST,
    hosts: listIn(values.LARDER_HOSTS).map((name) => name.toLowerCase()),
    port: values.LARDER_PORT,
    databaseUrl: values.LARDER_DATABASE_URL,
    databaseSync: values.LARDER_DATABASE_SYNC === "on",
    jobsAtOnce: values.LARDER_JOBS_AT_ONCE,
    imagesAtOnce: values.LARDER_IMAGES_AT_ONCE,
    demoShare: values.LARDER_DEMO_SHARE,
    limits: {
      archiveBytes: values.LARDER_MAX_ARCHIVE_MB,
      entryBytes: values.LARDER_MAX_ENTRY_MB,
      ratio: values.LARDER_MAX_RATIO,
      pixels: values.LARDER_MAX_MEGAPIXELS * 1e6,
    },
    folders: foldersFrom(values.LARDER_FOLDERS ?? path.join(values.LARDER_HOME, "incoming")),
    buckets: bucketsFrom(values.LARDER_BUCKETS, values.LARDER_STAND_IN_PORT),
    addresses: {
      allowed: listIn(values.LARDER_ADDRESSES_ALLOWED ?? publicHosts(values)),
      maxBytes: values.LARDER_MAX_FETCH_MB,
      timeout: values.LARDER_FETCH_SECONDS * 1000,
    },
    standInPort: values.LARDER_STAND_IN_PORT,
    snapshotBytes: values.LARDER_SNAPSHOT_MB,
    comparedAtOnce: values.LARDER_COMPARED_AT_ONCE,
    binDays: values.LARDER_BIN_DAYS,
  };
}

/** Every public host; in the demo also the simulated bucket, which is nobody's secret there. */
function publicHosts(values: { LARDER_DEMO_SHARE: number; LARDER_STAND_IN_PORT: number }): string {
  return values.LARDER_DEMO_SHARE > 0 ? `*,127.0.0.1:${values.LARDER_STAND_IN_PORT}` : "*";
}

let current: Settings | null = null;

export function settings(): Settings {
  current ??= parseSettings(process.env);
  return current;
}
