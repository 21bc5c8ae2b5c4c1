/** Nothing is reachable around `allow`: every route, asked by somebody who may do nothing and by somebody who may only look. */
import { planSchema } from "@larder/core/plans/plan";
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import ts from "typescript";
import { v7 as uuidV7 } from "uuid";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import { untilEnded } from "../jobs/wait";
import {
  cocoFiles,
  deliver,
  deliverAndTakeIn,
  picture,
  saveArchive,
  startWorker,
  wholeStock,
  zipBytes,
} from "../tests/bakery";
import { may, type Verb } from "./access";
import { localActor, type Actor } from "./actor";
import { history } from "./acts";
import { classTable } from "./classes";
import { createCollection, revisions, shelves } from "./collections";
import { goTo } from "./go-to";
import { jobsOf } from "./jobs";
import { createPlan } from "./plans";
import { matchingIds } from "./stock";
import { saveSelection } from "./stock/saved-selections";
import { newestRenderings } from "./version-page";
import { startBuild, versionsOf } from "./versions";

let actor: Actor = localActor;
vi.mock("@/edge/actor", () => ({ actorOf: () => Promise.resolve(actor) }));

const stranger: Actor = { id: "stranger", name: "A stranger", roles: new Map() };
let viewer: Actor;
const root = path.join(import.meta.dirname, "..", "..");
const app = path.join(root, "web", "app");

type Handler = (request: Request, context: { params: Promise<Record<string, string>> }) => Promise<Response>;
const modules = import.meta.glob<Record<string, Handler>>("../../web/app/**/route.ts");
const methods = ["GET", "POST", "PUT", "PATCH", "DELETE"] as const;

/** Open to whoever reaches this installation: whether it answers at all. */
/** Says that Larder is there, and what formats it reads: nothing of anybody's. */
const open = new Set(["GET /api/health", "GET /api/formats"]);
/** Answers whoever has the link: tested with links (packages.test.ts), and below with none that is right. */
const byLink = new Set(["GET /packages/link/[token]/[file]"]);
/** Answers everybody with what they may see, which is tested below. */
const filtered = new Set([
  "GET /api/collections",
  "GET /api/jobs",
  "GET /api/revisions",
  "GET /api/go-to",
  "GET /api/events",
]);

let stop: () => void;
let ids: Record<string, string>;
let collection: number;
beforeAll(async () => {
  stop = await startWorker();
  collection = (await createCollection(localActor, { name: "Guarded" })).id;
  viewer = { id: "viewer", name: "Who may look", roles: new Map([[collection, "viewer"]]) };
  await deliverAndTakeIn(collection, saveArchive("guarded.zip", await zipBytes(await cocoFiles(6))));
  const waiting = await deliver(
    collection,
    saveArchive("waiting.zip", await zipBytes(await cocoFiles(3, (n) => picture(n + 500)))),
  );
  const plan = await createPlan(localActor, collection, {
    name: "P",
    body: planSchema.parse({
      prepare: { resize: { mode: "fit", width: 40, height: 40 } },
      pack: { formats: ["coco"] },
    }),
  });
  const { id: version, job } = await startBuild(localActor, { planId: plan.id });
  await untilEnded(job);
  const packing = (await jobsOf(localActor)).find(({ kind }) => kind === "pack");
  if (packing) await untilEnded(packing.id);
  const pack = (await versionsOf(localActor, collection))[0]?.packages[0];
  const { entries } = await history(localActor, collection, {});
  const [image] = await matchingIds(localActor, collection, wholeStock);
  const [rendering] = await newestRenderings(localActor, version, 1);
  ids = {
    renderings: String(rendering),
    collections: String(collection),
    deliveries: String(waiting.id),
    images: String(image),
    plans: String(plan.id),
    versions: String(version),
    packages: String(pack?.id),
    acts: String(entries[0]?.id),
    jobs: job,
    selections: String((await saveSelection(localActor, collection, { name: "all", where: "has any" })).id),
    classes: String((await classTable(localActor, collection))[0]?.id),
  };
});
afterAll(() => stop());

/** Bodies that are right, so that only the right to do it is missing. */
const bodies: Record<string, unknown> = {
  "POST /api/collections": { name: "Another" },
  "PATCH /api/collections/[id]": { name: "Renamed" },
  "DELETE /api/collections/[id]": { typedName: "Guarded" },
  "POST /api/collections/[id]/acts": { where: "", act: { do: "move", split: "val" } },
  "PUT /api/classes/[id]/attributes": [{ name: "bake", kind: "choice", values: ["pale"] }],
  "PUT /api/classes/[id]/keypoint-pairs": { pairs: null },
  "PUT /api/classes/[id]/name": { name: "bun" },
  "PATCH /api/classes/[id]": { code: "ZZ" },
  "PUT /api/collections/[id]/classes/order": { classes: [1] },
  "POST /api/collections/[id]/ledger": [{ image: 1, column: "split", value: "val", before: null }],
  "POST /api/collections/[id]/ledger/columns": { do: "add", attribute: { kind: "text", name: "note" } },
  "POST /api/collections/[id]/ledger/file": { text: "name\n", write: false },
  "POST /api/collections/[id]/exports": { format: "coco" },
  "POST /api/collections/combine": { sources: [1], into: { name: "Combined" }, splits: "keep" },
  "POST /api/collections/[id]/undo": { again: false },
  "POST /api/collections/[id]/checks/mend": { key: "class-rare roll", mend: 0, mark: "" },
  "PUT /api/collections/[id]/checks/threshold": { code: "class-rare", value: 5 },
  "POST /api/collections/[id]/checks/dismissals": { key: "class-rare roll", reason: "there are no more" },
  "POST /api/images/[id]/time": { seconds: 5 },
  "POST /api/collections/[id]/steps": [{ image: 1, revision: 0, steps: [{ do: "remove-object", uid: uuidV7() }] }],
  "POST /api/collections/[id]/classes": { text: "roll\ntart", fileName: "names.txt" },
  "POST /api/collections/[id]/selections": { name: "rolls", where: "has roll" },
  "POST /api/collections/[id]/deliveries": { kind: "files", source: "x.zip" },
  "POST /api/collections/[id]/plans": { name: "Mine" },
  "POST /api/collections/[id]/plan-flow": planSchema.parse({}),
  "POST /api/collections/[id]/plan-gates": planSchema.parse({}),
  "POST /api/collections/[id]/plan-losses": planSchema.parse({}),
  "POST /api/collections/[id]/plan-samples": { plan: planSchema.parse({}), turn: 0 },
  "POST /api/collections/[id]/plan-leaving": { plan: planSchema.parse({}), step: "select" },
  "POST /api/plans/[id]/duplicate": {},
  "PATCH /api/deliveries/[id]": { name: "Mine" },
  "POST /api/deliveries/[id]/known": { files: [] },
  "POST /api/deliveries/[id]/leave-out": { ordinals: [0], leftOut: true },
  "POST /api/deliveries/[id]/arrived": {},
  "PATCH /api/plans/[id]": { name: "Mine" },
  "POST /api/versions/[id]/packages": { format: "voc" },
  "POST /api/versions/[id]/scores": { model: "small", scores: { overall: { mAP: 0.4 }, byClass: {} } },
  "POST /api/packages/[id]/links": { hours: 1 },
};
const queries: Record<string, string> = {
  "GET /api/collections/[id]/stock": "?start=0&limit=5",
  "GET /api/collections/[id]/cutouts": "?of=class&id=1&by=size&start=0&limit=5",
  "GET /api/collections/[id]/ledger": "?start=0&limit=5",
  "GET /api/collections/[id]/classes/file": "?as=txt",
  "GET /api/images/[id]/cutout": "?x=1&y=2&width=10&height=12",
  "GET /api/collections/[id]/stock/ids": "?start=0&limit=5",
  "GET /api/collections/[id]/checks/proofs": "?key=class-rare%20roll",
  "GET /api/collections/[id]/versions/compare": "?first=1&second=1",
  "GET /api/deliveries/[id]/items": "?filter=all&offset=0&limit=5",
  "GET /api/versions/[id]/losses": "?format=coco",
  "GET /api/versions/[id]/card": "?as=md",
  "GET /api/sources/bucket": "?bucket=Millrace%20store",
  "GET /api/sources/folder": "?root=incoming",
};
/** What counts something out without changing anything, though its question needs a body. */
const onlyLooks = new Set([
  "POST /api/collections/[id]/plan-flow",
  "POST /api/collections/[id]/plan-gates",
  "POST /api/collections/[id]/plan-losses",
  "POST /api/collections/[id]/plan-samples",
  "POST /api/collections/[id]/plan-leaving",
]);

async function call(route: string, method: string): Promise<Response> {
  const file = `../../web/app${route}/route.ts`;
  const handlers = await (modules[file] as () => Promise<Record<string, Handler>>)();
  const key = `${method} ${route}`;
  const kind = route.split("/")[route.startsWith("/api") ? 2 : 1] ?? "";
  const params: Record<string, string> = {
    id: key.startsWith("POST /api/versions") && !route.includes("[id]") ? "" : (ids[kind] ?? ""),
    image: ids["images"] ?? "",
    ordinal: "0",
    selection: ids["selections"] ?? "",
    file: "x.zip",
    token: "none",
    key: ids["renderings"] ?? "",
    link: "1",
    score: "1",
    dismissal: "1",
  };
  let address = route.replace(/\[(\w+)\]/g, (_, name: string) => params[name] ?? "");
  address += queries[key] ?? "";
  let body: BodyInit | null = null;
  if (key === "POST /api/versions") body = JSON.stringify({ planId: Number(ids["plans"]) });
  else if (key === "POST /api/deliveries/[id]/files") {
    const form = new FormData();
    form.set("paths", JSON.stringify(["a.jpg"]));
    form.append("file", new Blob(["bread"]), "a.jpg");
    body = form;
  } else if (method !== "GET") body = JSON.stringify(bodies[key] ?? {});
  // A form says by itself what it is.
  const type: HeadersInit = typeof body === "string" ? { "content-type": "application/json" } : {};
  const request = new Request(`http://larder.test${address}`, { method, body, headers: type });
  return (handlers[method] as Handler)(request, { params: Promise.resolve(params) });
}

const uploads = "/api/uploads/[[...rest]]";
const routes = readdirSync(app, { recursive: true, encoding: "utf8" })
  .filter((file) => file.endsWith("route.ts") && !file.includes("[[...rest]]"))
  .map((file) => `/${path.dirname(file)}`)
  .sort();

/** Every method of every route. */
async function everyCall(): Promise<[string, string][]> {
  const calls: [string, string][] = [];
  for (const route of routes) {
    const handlers = await (modules[`../../web/app${route}/route.ts`] as () => Promise<Record<string, unknown>>)();
    for (const method of methods) if (typeof handlers[method] === "function") calls.push([route, method]);
  }
  return calls;
}

describe("a route", () => {
  it("of any kind answers a stranger as if nothing were there, or with a refusal", async () => {
    actor = stranger;
    const calls = await everyCall();
    expect(calls.length).toBeGreaterThan(50);
    for (const [route, method] of calls) {
      const key = `${method} ${route}`;
      if (open.has(key) || filtered.has(key)) continue;
      const { status } = await call(route, method);
      expect([key, status === 403 || status === 404]).toEqual([key, true]);
    }
  });
  it("lets somebody who may look see everything and change nothing", async () => {
    actor = viewer;
    for (const [route, method] of await everyCall()) {
      const key = `${method} ${route}`;
      // Sources belong to no collection: who may look at one may not look around the server.
      if (open.has(key) || filtered.has(key) || byLink.has(key)) continue;
      if (route.startsWith("/api/sources") || key === "POST /api/collections") continue;
      const response = await call(route, method);
      const expected = method === "GET" || onlyLooks.has(key) ? 200 : 403;
      expect([key, response.status]).toEqual([key, expected]);
      await response.body?.cancel();
    }
  });
  it("for uploads takes nothing from a stranger", async () => {
    actor = stranger;
    const handlers = await (
      modules[`../../web/app${uploads}/route.ts`] as () => Promise<
        Record<string, (request: Request) => Promise<Response>>
      >
    )();
    const metadata = `path ${btoa("a.zip")},delivery ${btoa(ids["deliveries"] as string)}`;
    const response = await handlers["POST"]?.(
      new Request("http://larder.test/api/uploads", {
        method: "POST",
        headers: { "tus-resumable": "1.0.0", "upload-length": "5", "upload-metadata": metadata },
      }),
    );
    expect(response?.status).toBe(409);
    expect(await response?.text()).toMatch(/no delivery/);
  });
});

describe("lists", () => {
  it("hold what the actor may see, and nothing else", async () => {
    const other = (await createCollection(localActor, { name: "Not for the viewer" })).id;
    expect((await shelves(viewer)).map(({ name }) => name)).toEqual(["Guarded"]);
    expect(await shelves(stranger)).toEqual([]);
    expect(Object.keys(await revisions(viewer))).toEqual([String(collection)]);
    expect((await goTo(viewer, "for the")).length).toBe(0);
    expect((await goTo(localActor, "for the")).length).toBe(1);
    expect((await jobsOf(stranger)).length).toBe(0);
    expect(may(viewer, "see", other)).toBe(false);
  });
});

it("a role allows what it says, in its collection alone", () => {
  const editor: Actor = { id: "e", name: "E", roles: new Map([[7, "editor"]]) };
  const allowed = (who: Actor, where: number) =>
    (["see", "download", "label", "deliver", "plan", "build", "manage"] as Verb[]).filter((verb) =>
      may(who, verb, where),
    );
  expect(allowed(editor, 7)).toEqual(["see", "download", "label", "deliver", "plan", "build"]);
  expect(allowed(editor, 8)).toEqual([]);
  expect(allowed(viewer, collection)).toEqual(["see", "download"]);
  expect(allowed(localActor, 8)).toHaveLength(7);
  expect(may(editor, "deliver", null)).toBe(false);
});

/** The functions of services that a file of the pages imports, with the file each comes from. */
function importedServices(file: string): { name: string; from: string }[] {
  const source = ts.createSourceFile(file, readFileSync(file, "utf8"), ts.ScriptTarget.Latest, true);
  return source.statements.flatMap((statement) => {
    if (!ts.isImportDeclaration(statement) || statement.importClause?.isTypeOnly) return [];
    const from = (statement.moduleSpecifier as ts.StringLiteral).text;
    const bindings = statement.importClause?.namedBindings;
    if (!from.startsWith("@larder/server/services/") || !bindings || !ts.isNamedImports(bindings)) return [];
    return bindings.elements
      .filter((element) => !element.isTypeOnly)
      .map((element) => ({ name: element.name.text, from }));
  });
}

describe("a service that a route calls", () => {
  it("takes the acting user first and asks what they may do, or hands them on", () => {
    const files = readdirSync(path.join(root, "web"), { recursive: true, encoding: "utf8" })
      .filter((file) => /^(app|edge)\/.*\.tsx?$/.test(file) && !file.includes(".test.") && !file.includes(".next"))
      .map((file) => path.join(root, "web", file));
    const checked = new Set<string>();
    for (const { name, from } of files.flatMap(importedServices)) {
      const file = path.join(root, `${from.replace("@larder/", "")}.ts`);
      const source = ts.createSourceFile(file, readFileSync(file, "utf8"), ts.ScriptTarget.Latest, true);
      for (const statement of source.statements) {
        if (!ts.isFunctionDeclaration(statement) || statement.name?.text !== name) continue;
        const first = statement.parameters[0];
        expect([name, first?.name.getText(source), first?.type?.getText(source)]).toEqual([name, "actor", "Actor"]);
        expect([name, /\b(allow|allowHere|may)\(|\(actor\b/.test(statement.body?.getText(source) ?? "")]).toEqual([
          name,
          true,
        ]);
        checked.add(name);
      }
    }
    expect(checked.size).toBeGreaterThan(45);
  });
});
