/** The thin edge of every route: parses what comes in, answers with JSON, turns failures into a code and a sentence. */
import { Failure, sentenceFor } from "@larder/core/model/failure";
import type { Actor } from "@larder/server/services/actor";
import { z } from "zod";
import { actorOf } from "./actor";
import { readJson } from "./body";

type Context = { params: Promise<Record<string, string | string[] | undefined>> };
type Request_ = {
  request: Request;
  actor: Actor;
  url: URL;
  id: (name?: string) => number;
  uuid: (name?: string) => string;
  body: <T extends z.ZodType>(schema: T) => Promise<z.infer<T>>;
  query: <T extends z.ZodType>(schema: T) => z.infer<T>;
};

function parsed<T extends z.ZodType>(schema: T, value: unknown): z.infer<T> {
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const issue = result.error.issues[0];
  throw new Failure(
    "input-invalid",
    issue?.path.length ? `${issue.path.join(".")}: ${issue.message}` : (issue?.message ?? "That does not fit."),
    400,
  );
}

export function failed(error: unknown): Response {
  if (error instanceof z.ZodError) {
    const issue = error.issues[0];
    return Response.json({ code: "input-invalid", message: issue?.message ?? "That does not fit." }, { status: 400 });
  }
  const status = error instanceof Failure ? error.status : 500;
  if (status === 500) console.error(error);
  const details = error instanceof Failure ? error.details : undefined;
  return Response.json({ ...details, ...sentenceFor(error) }, { status });
}

/**
 * A route handler from a function that returns what to answer: a value for JSON, or a Response of its own. `bodyBytes` is
 * how long the JSON that it is sent may be.
 */
export function answer(
  work: (input: Request_) => Promise<unknown>,
  { bodyBytes = 1 << 20 }: { bodyBytes?: number } = {},
): (request: Request, context: Context) => Promise<Response> {
  return async (request, context) => {
    try {
      const params = await context.params;
      const url = new URL(request.url);
      const value = await work({
        request,
        actor: await actorOf(request),
        url,
        id: (name = "id") => parsed(z.coerce.number().int().positive(), params[name]),
        uuid: (name = "id") => parsed(z.uuid("This is no id."), params[name]),
        body: async (schema) => parsed(schema, await readJson(request, bodyBytes)),
        query: (schema) => {
          const entries: Record<string, string[]> = {};
          for (const key of url.searchParams.keys()) entries[key] = url.searchParams.getAll(key);
          return parsed(schema, entries);
        },
      });
      return value instanceof Response ? value : Response.json(value ?? null);
    } catch (error) {
      return failed(error);
    }
  };
}

/** The first of a query's values, read by `schema`. */
export function one<T extends z.ZodType>(schema: T) {
  return z
    .array(z.string())
    .optional()
    .transform((values): z.infer<T> => schema.parse(values?.[0]));
}
