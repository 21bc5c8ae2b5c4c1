/** What is known of a delivery as a whole; it goes with its images into packages. */
import { z } from "zod";

const line = (most: number) => z.string().trim().max(most, `At most ${most} characters.`).default("");
const day = z.union([z.literal(""), z.iso.date("A date is written like 2026-11-19.")]).default("");

export const deliveryFactsSchema = z
  .object({
    source: line(500),
    licence: line(200),
    citation: line(2000),
    notes: line(5000),
    /** The camera's position, by the name people there use. */
    camera: line(120),
    takenFrom: day,
    takenTo: day,
    /** Decimal degrees, WGS 84: north and east are positive. */
    latitude: z.number().min(-90).max(90).nullable().default(null),
    longitude: z.number().min(-180).max(180).nullable().default(null),
  })
  .refine(({ takenFrom, takenTo }) => takenFrom === "" || takenTo === "" || takenFrom <= takenTo, {
    path: ["takenTo"],
    message: "This day lies before the first one.",
  });
export type DeliveryFacts = z.infer<typeof deliveryFactsSchema>;

export const noFacts: DeliveryFacts = deliveryFactsSchema.parse({});

/** Facts as lines for a package's README: one paragraph a delivery, only what is known. */
export function factLines(name: string, images: number, facts: DeliveryFacts): string[] {
  const entries: [string, string][] = [
    ["source", facts.source],
    ["licence", facts.licence],
    ["citation", facts.citation],
    ["camera", facts.camera],
    ["taken", [facts.takenFrom, facts.takenTo].filter((value) => value !== "").join(" to ")],
    ["place", facts.latitude !== null && facts.longitude !== null ? `${facts.latitude}, ${facts.longitude}` : ""],
    ["notes", facts.notes],
  ];
  const known = entries
    .filter(([, value]) => value !== "")
    .map(([key, value]) => `  ${key}: ${value.replace(/\s*\n\s*/g, " ")}`);
  return [`${name}: ${images.toLocaleString("en-US")} ${images === 1 ? "image" : "images"}`, ...known];
}
