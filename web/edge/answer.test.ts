import { Failure } from "@larder/core/model/failure";
import { afterEach, describe, expect, it, vi } from "vitest";
import { z } from "zod";
import { answer, one } from "./answer";

const at = (params: Record<string, string> = {}) => ({ params: Promise.resolve(params) });
const get = (query = "") => new Request(`http://larder.test/api/x${query}`);
const post = (body: string, headers: Record<string, string> = {}) =>
  new Request("http://larder.test/api/x", {
    method: "POST",
    body,
    headers: { host: "larder.test", "content-type": "application/json", ...headers },
  });
const answerOf = async (response: Response): Promise<[number, unknown]> => [response.status, await response.json()];

afterEach(() => vi.restoreAllMocks());

describe("a route", () => {
  it("answers with JSON, with null where there is nothing, or with a response of its own", async () => {
    expect(await answerOf(await answer(() => Promise.resolve({ a: 1 }))(get(), at()))).toEqual([200, { a: 1 }]);
    expect(await answerOf(await answer(() => Promise.resolve(undefined))(get(), at()))).toEqual([200, null]);
    const response = await answer(() => Promise.resolve(new Response("bread", { status: 206 })))(get(), at());
    expect([response.status, await response.text()]).toEqual([206, "bread"]);
  });
  it("turns a failure into its code, sentence and status", async () => {
    const gone = answer(() => Promise.reject(new Failure("plan-missing", "There is no plan 7.", 404)));
    expect(await answerOf(await gone(get(), at()))).toEqual([
      404,
      { code: "plan-missing", message: "There is no plan 7." },
    ]);
  });
  it("hides what nobody foresaw behind a plain sentence, and writes it down", async () => {
    const logged = vi.spyOn(console, "error").mockImplementation(() => undefined);
    const [status, body] = await answerOf(
      await answer(() => Promise.reject(new TypeError("x is undefined")))(get(), at()),
    );
    expect([status, (body as { code: string }).code]).toEqual([500, "unexpected"]);
    expect(JSON.stringify(body)).not.toMatch(/at .*\.ts/);
    expect(logged).toHaveBeenCalledOnce();
  });
  it.each(["0", "-3", "1.5", "seven", ""])("takes no %j for an id", async (id) => {
    const [status, body] = await answerOf(
      await answer(async ({ id: read }) => Promise.resolve(read()))(get(), at({ id })),
    );
    expect([status, (body as { code: string }).code]).toEqual([400, "input-invalid"]);
  });
  it("reads ids by their names", async () => {
    expect(
      await answerOf(
        await answer(async ({ id }) => Promise.resolve([id(), id("image")]))(get(), at({ id: "12", image: "3" })),
      ),
    ).toEqual([200, [12, 3]]);
  });
  it("reads a body by its schema, and names what does not fit", async () => {
    const route = answer(({ body }) =>
      body(z.object({ name: z.string().min(1), ratio: z.object({ train: z.number() }) })),
    );
    expect(await answerOf(await route(post('{"name":"a","ratio":{"train":7},"more":1}'), at()))).toEqual([
      200,
      { name: "a", ratio: { train: 7 } },
    ]);
    const [status, body] = await answerOf(await route(post('{"name":"a","ratio":{"train":"x"}}'), at()));
    expect([status, (body as { message: string }).message]).toEqual([400, expect.stringMatching(/^ratio\.train: /)]);
    expect((await route(post("no json"), at())).status).toBe(400);
  });
  it("reads a query: several values of a key, the first of one, and what is missing", async () => {
    const route = answer(async ({ query }) =>
      Promise.resolve(
        query(z.object({ class: z.array(z.string()).default([]), size: one(z.coerce.number().default(180)) })),
      ),
    );
    expect(await answerOf(await route(get("?class=roll&class=tart&size=110&other=1"), at()))).toEqual([
      200,
      { class: ["roll", "tart"], size: 110 },
    ]);
    expect(await answerOf(await route(get(), at()))).toEqual([200, { class: [], size: 180 }]);
    expect((await route(get("?size=large"), at())).status).toBe(400);
  });
  it("takes JSON that is said to be such, and no more of it than the route wants", async () => {
    const work = vi.fn(({ body }: { body: (schema: z.ZodType) => Promise<unknown> }) => body(z.unknown()));
    const codeOf = async (request: Request, bodyBytes = 64) =>
      ((await (await answer(work, { bodyBytes })(request, at())).json()) as { code?: string } | null)?.code ?? null;
    const json = { "content-type": "application/json; charset=utf-8" };
    expect(await codeOf(post("{}", json))).toBeNull();
    expect(await codeOf(post("{}", { "content-type": "text/plain" }))).toBe("type-unsupported");
    expect(await codeOf(post("{", json))).toBe("json-broken");
    expect(await codeOf(post(`"${"x".repeat(70)}"`, json))).toBe("body-too-long");
    // Nothing says how long it is: it is read no further than it may be.
    let sent = 0;
    const endless = new ReadableStream<Uint8Array>({
      pull: (controller) => controller.enqueue(new Uint8Array(((sent += 16), 16)).fill(32)),
    });
    const request = new Request("http://larder.test/api/x", {
      method: "POST",
      body: endless,
      headers: json,
      duplex: "half",
    } as RequestInit);
    expect(await codeOf(request)).toBe("body-too-long");
    expect(sent).toBeLessThan(200);
  });
});
