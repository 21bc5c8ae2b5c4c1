import { sql } from "drizzle-orm";
import { db } from "@larder/server/db/database";
import { answer } from "@/edge/answer";

export const GET = answer(async () => {
  await db().execute(sql`select 1`);
  return { ready: true, instance: process.env["LARDER_INSTANCE"] ?? null };
});
