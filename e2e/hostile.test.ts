/** Whoever should not, does not: every route is asked wrongly, and a page elsewhere tries what it can. */
import { createServer, request, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import type { Page } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { openBrowser } from "./browser";
import { startLarder, type RunningLarder } from "./running-larder";

let larder: RunningLarder;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let page: Page;
let elsewhere: Server;

const app = path.join(import.meta.dirname, "..", "web", "app");
const methods = ["GET", "POST", "PUT", "PATCH", "DELETE"] as const;

/** Every route with the methods it has. */
const routes = readdirSync(app, { recursive: true, encoding: "utf8" })
  .filter((file) => path.basename(file) === "route.ts")
  .map((file) => {
    const source = readFileSync(path.join(app, file), "utf8");
    return {
      route: `/${path.dirname(file)}`,
      has: methods.filter((method) => new RegExp(`\\b${method}\\b`).test(source)),
    };
  });

/** A route's address with each of its names in brackets set to `id`. */
const at = (route: string, id: string) => route.replace(/\/\[\[\.\.\.\w+\]\]/, "").replace(/\[\w+\]/g, id);

type Said = { status: number; type: string; text: string };
type Asking = {
  headers?: Record<string, string>;
  body?: string | Uint8Array;
  /** How often the body is sent. */ times?: number;
};

/** Asks as it is written here: no client tidies up method, address, host or body. */
function ask(method: string, address: string, { headers = {}, body, times = 1 }: Asking = {}): Promise<Said> {
  return new Promise((resolve, reject) => {
    const { hostname, port } = new URL(larder.url);
    const length = body === undefined ? {} : { "content-length": String(Buffer.byteLength(body) * times) };
    const options = { hostname, port, method, path: address, headers: { ...length, ...headers }, agent: false };
    const asking = request(options, (response) => {
      const type = response.headers["content-type"] ?? "";
      const chunks: Buffer[] = [];
      const end = () => {
        asking.destroy();
        resolve({ status: response.statusCode ?? 0, type, text: Buffer.concat(chunks).toString() });
      };
      // A stream of events has no end.
      if (type.startsWith("text/event-stream")) return end();
      response.on("data", (chunk: Buffer) => chunks.push(chunk));
      response.on("end", end);
      response.on("error", end);
    });
    asking.on("error", reject);
    if (body === undefined) return asking.end();
    let left = times;
    const send = () => {
      while (left > 0 && !asking.destroyed) {
        left--;
        if (!asking.write(body)) return void asking.once("drain", send);
      }
      if (!asking.destroyed) asking.end();
    };
    send();
  });
}

const json = { "content-type": "application/json" };
const nothingOfOurs = /select |insert |update |\bparams\b|node_modules|\/work\/|\.ts:\d|at Object|stack/i;

/** What is wrong with an answer to something that should be turned down or plainly answered; null where nothing is. */
function wrong({ status, type, text }: Said): string | null {
  if (status >= 500) return `answered ${status}`;
  if (nothingOfOurs.test(text) && type.startsWith("application/json") && status >= 400) return `tells ${text}`;
  if (status < 400) return null;
  if (type.startsWith("text/plain") && text.length > 10) return null;
  const body = type.startsWith("application/json") ? (JSON.parse(text) as { code?: string; message?: string }) : {};
  return body.code && (body.message ?? "").length > 8 ? null : `answered ${status} and says nothing: ${text}`;
}

beforeAll(async () => {
  larder = await startLarder();
  browser = await openBrowser();
  page = await browser.context.newPage();
  elsewhere = createServer((_, response) => response.end("<!doctype html><title>elsewhere</title>")).listen(
    0,
    "127.0.0.1",
  );
});
afterAll(async () => {
  elsewhere?.close();
  await browser?.close();
  await larder?.stop();
});

describe("every route", () => {
  const bodies: [string, Asking][] = [
    ["nothing", {}],
    ["an empty object", { body: "{}", headers: json }],
    ["a list", { body: "[]", headers: json }],
    ["null", { body: "null", headers: json }],
    ["broken JSON", { body: '{"name":', headers: json }],
    ["JSON that is not UTF-8", { body: new Uint8Array([0x22, 0xff, 0x22]), headers: json }],
    ["a form", { body: "name=x", headers: { "content-type": "application/x-www-form-urlencoded" } }],
    ["names of objects' own", { body: '{"__proto__":{"a":1},"constructor":1,"name":{"toString":1}}', headers: json }],
    ["numbers past all bounds", { body: '{"name":1e400,"planId":9223372036854775808,"bytes":-1}', headers: json }],
  ];
  const ids = ["0", "-1", "1.5", "abc", "2147483648", "9223372036854775808", "1e3", "%00", "%ff", "..%2f..", "null"];

  it("is known here", () => {
    expect(routes.length).toBeGreaterThan(45);
    for (const { route, has } of routes) expect([route, has.length > 0]).toEqual([route, true]);
  });

  it("says in a sentence what is wrong with an id, whatever stands in its place", async () => {
    const problems: string[] = [];
    for (const { route, has } of routes)
      if (route.includes("["))
        for (const id of ids)
          for (const method of has) {
            const problem = wrong(
              await ask(method, at(route, id), method === "GET" ? {} : { body: "{}", headers: json }),
            );
            if (problem) problems.push(`${method} ${at(route, id)} ${problem}`);
          }
    expect(problems).toEqual([]);
  });

  it("says in a sentence what is wrong with a body", async () => {
    const problems: string[] = [];
    for (const { route, has } of routes)
      for (const method of has)
        if (method !== "GET")
          for (const [what, init] of bodies) {
            const problem = wrong(await ask(method, at(route, "1"), init));
            if (problem) problems.push(`${method} ${at(route, "1")} with ${what} ${problem}`);
          }
    expect(problems).toEqual([]);
  });

  it("says in a sentence that it does not have a method", async () => {
    const problems: string[] = [];
    for (const { route, has } of routes)
      for (const method of methods)
        if (!has.includes(method)) {
          const said = await ask(method, at(route, "1"), method === "GET" ? {} : { body: "{}", headers: json });
          const problem = said.status === 405 ? wrong(said) : `answered ${said.status}`;
          if (problem) problems.push(`${method} ${at(route, "1")} ${problem}`);
        }
    expect(problems).toEqual([]);
  });

  it("reads no further than a body may be long", async () => {
    const megabyte = " ".repeat(1 << 20);
    const problems: string[] = [];
    for (const { route, has } of routes)
      for (const method of has)
        if (method !== "GET" && !route.startsWith("/api/uploads")) {
          // Some take no body at all; none takes one that long.
          const said = await ask(method, at(route, "1"), { body: megabyte, times: 100, headers: json }).catch(
            () => null,
          );
          const problem = said && (said.status < 400 || said.status >= 500) ? `answered ${said.status}` : null;
          if (problem) problems.push(`${method} ${at(route, "1")} ${problem}`);
        }
    expect(problems).toEqual([]);
    expect((await ask("GET", "/api/health")).status).toBe(200);
  });

  it("takes selections as long as they may be, and says where one is wrong", async () => {
    const made = await ask("POST", "/api/collections", { body: '{"name":"Asked for"}', headers: json });
    const { id } = JSON.parse(made.text) as { id: number };
    const facets = (where: string) =>
      ask("GET", `/api/collections/${id}/stock/facets?${new URLSearchParams({ where })}`);
    const many = Array.from({ length: 900 }, (_, n) => `has "brød ${n}"`).join(" or ");
    expect([many.length > 15_000, (await facets(many)).status]).toEqual([true, 200]);
    for (const [text, why] of [
      ["ø".repeat(20_001), "20,000"],
      ["(".repeat(19_000), "50 one inside"],
    ] as const) {
      const refused = await facets(text);
      expect([refused.status, refused.text.includes(why)]).toEqual([400, true]);
    }
    const said = await facets("has roll and splitt = train");
    expect([said.status, JSON.parse(said.text)]).toEqual([
      400,
      {
        code: "selection-invalid",
        message: '"splitt" is no field. Did you mean split? (column 14)',
        at: 14,
        length: 6,
        expected: ["split"],
      },
    ]);
    await ask("DELETE", `/api/collections/${id}`, { body: '{"typedName":"Asked for"}', headers: json });
  });

  it("changes nothing for a page of another origin or under another name, and tells it nothing", async () => {
    const problems: string[] = [];
    for (const { route, has } of routes)
      for (const method of has) {
        const named = await ask(method, at(route, "1"), { headers: { host: "evil.test" } });
        if (named.status !== 421) problems.push(`${method} ${route} answered ${named.status} as evil.test`);
        if (method === "GET") continue;
        for (const origin of ["http://evil.test", "null", "http://127.0.0.1:1"]) {
          const said = await ask(method, at(route, "1"), { body: "{}", headers: { ...json, origin } });
          if (said.status !== 403) problems.push(`${method} ${route} answered ${said.status} to ${origin}`);
        }
      }
    expect(problems).toEqual([]);
  });
});

describe("a page elsewhere", () => {
  const names = async () =>
    ((await (await fetch(`${larder.url}/api/collections`)).json()) as { name: string }[]).map(({ name }) => name);

  it("makes nothing here, by script or by form, and reads nothing", async () => {
    await page.goto(`http://127.0.0.1:${(elsewhere.address() as AddressInfo).port}/`);
    const outcomes = await page.evaluate(async (url) => {
      const post = (init: RequestInit) =>
        fetch(`${url}/api/collections`, { method: "POST", body: '{"name":"Stolen"}', ...init }).then(
          (response) => response.type,
          () => "refused",
        );
      return [
        await post({ mode: "no-cors" }),
        await post({ headers: { "content-type": "application/json" } }),
        await fetch(`${url}/api/collections`).then(
          (response) => response.text(),
          () => "refused",
        ),
        await fetch(`${url}/api/uploads`, { method: "OPTIONS" }).then(
          () => "read",
          () => "refused",
        ),
      ];
    }, larder.url);
    expect(outcomes).toEqual(["opaque", "refused", "refused", "refused"]);
    await page.evaluate((url) => {
      document.body.innerHTML = `<form method="post" enctype="text/plain" action="${url}/api/collections"><input name='{"name":"Stolen' value='"}'></form>`;
      document.querySelector("form")?.submit();
    }, larder.url);
    await page.getByText("origin-foreign").waitFor();
    expect(await names()).not.toContain("Stolen");
  });

  it("does not show Larder in a frame", async () => {
    await page.goto(`http://127.0.0.1:${(elsewhere.address() as AddressInfo).port}/`);
    const [refused] = await Promise.all([
      page.waitForEvent("console", (message) => /frame-ancestors|X-Frame-Options/.test(message.text())),
      page.evaluate((url) => {
        const frame = document.createElement("iframe");
        frame.src = url;
        document.body.append(frame);
      }, larder.url),
    ]);
    expect(refused.text()).toMatch(/frame/i);
  });
});

describe("a page of Larder", () => {
  it("runs no script that is not its own", async () => {
    const told: string[] = [];
    page.on("console", (message) => told.push(message.text()));
    const response = await page.goto(larder.url);
    const policy = response?.headers()["content-security-policy"] ?? "";
    expect(policy).toMatch(/script-src 'self' 'nonce-[^']+'(;|$)/);
    expect(policy).not.toMatch(/script-src[^;]*unsafe/);
    await page.getByRole("heading").first().waitFor();
    expect(told.filter((text) => /Content Security Policy/.test(text))).toEqual([]);
    await page.evaluate(() => {
      const script = document.createElement("script");
      script.textContent = "document.title = 'taken over'";
      document.body.append(script);
    });
    expect(await page.title()).not.toBe("taken over");
    expect(told.some((text) => /Content Security Policy/.test(text))).toBe(true);
  });
});
