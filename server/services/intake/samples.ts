/**
 * The shelf of sample collections that ships with Larder: drawn when it is first started, each in a folder of its own.
 */
import { Failure } from "@larder/core/model/failure";
import { existsSync, readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import { settings } from "../../settings";

export const sampleSchema = z.object({
  name: z.string(),
  title: z.string(),
  description: z.string(),
  images: z.number().int(),
  format: z.string(),
  licence: z.string(),
  citation: z.string(),
});
export type Sample = z.infer<typeof sampleSchema>;

export function samplesFolder(): string {
  return path.join(settings().home, "samples");
}

/** The samples that are there, by their titles. */
export function samples(): Sample[] {
  const folder = samplesFolder();
  if (!existsSync(folder)) return [];
  return readdirSync(folder)
    .filter((name) => existsSync(path.join(folder, name, "sample.json")))
    .map((name) => sampleSchema.parse(JSON.parse(readFileSync(path.join(folder, name, "sample.json"), "utf8"))))
    .sort((a, b) => (a.title < b.title ? -1 : 1));
}

export function sampleNamed(name: string): Sample {
  const sample = samples().find((candidate) => candidate.name === name);
  if (!sample) throw new Failure("sample-missing", `There is no sample called ${name}.`, 404);
  return sample;
}

/** Where a sample's files are. */
export function sampleFolder(name: string): string {
  return path.join(samplesFolder(), sampleNamed(name).name, "files");
}
