/** The application's own server: the gate first, then the framework's pages and routes. */
import { Failure, sentenceFor } from "@larder/core/model/failure";
import { larderActor } from "@larder/server/services/actor";
import { readStockAhead } from "@larder/server/services/stock/read-ahead";
import { settings } from "@larder/server/settings";
import next from "next";
import { createServer, type ServerResponse } from "node:http";
import path from "node:path";
import { refusal } from "./edge/gate";

const { host, port, root } = settings();

function turnAway(response: ServerResponse, failure: Failure): void {
  response.writeHead(failure.status, {
    "content-type": "application/json",
    "x-content-type-options": "nosniff",
    // What else would come of the body is nobody's to read.
    connection: "close",
  });
  response.end(JSON.stringify(sentenceFor(failure)));
}

/** The framework turns down a method that a route does not have without a word; here it gets one. */
function sayWhatIsNotAllowed(response: ServerResponse): void {
  let answered = false;
  const writeHead = response.writeHead.bind(response) as (...args: unknown[]) => ServerResponse;
  const write = response.write.bind(response) as (...args: unknown[]) => boolean;
  const end = response.end.bind(response) as (...args: unknown[]) => ServerResponse;
  response.writeHead = (status: number, ...rest: unknown[]) => {
    if (status !== 405 || answered) return writeHead(status, ...rest);
    answered = true;
    const failure = new Failure("method-unknown", "This cannot be done to what this address names.", 405);
    for (const name of ["content-encoding", "content-length"]) response.removeHeader(name);
    response.setHeader("content-type", "application/json");
    writeHead(status);
    return end(JSON.stringify(sentenceFor(failure)));
  };
  // Whatever else would be written belongs to the answer that this one took the place of.
  response.write = ((...args: unknown[]) => answered || write(...args)) as typeof response.write;
  response.end = ((...args: unknown[]) => (answered ? response : end(...args))) as typeof response.end;
}

/** Addresses carry selections of 20,000 signs, each of up to nine letters as addresses write them. */
const maxHeaderSize = 256 * 1024;

const application = next({ dev: false, dir: path.join(root, "web"), hostname: host, port });
await application.prepare();
const handle = application.getRequestHandler();
const server = createServer({ maxHeaderSize }, (request, response) => {
  const refused = refusal(request);
  if (refused) return turnAway(response, refused);
  sayWhatIsNotAllowed(response);
  void handle(request, response);
});
// A file of any size may take its time; who sends no headers may not.
server.requestTimeout = 0;
server.headersTimeout = 30_000;
server.keepAliveTimeout = 65_000;
server.on("error", (error: NodeJS.ErrnoException) => {
  console.error(
    error.code === "EADDRINUSE"
      ? `Port ${port} of ${host} is taken by another program.`
      : `The server failed: ${error.message}`,
  );
  process.exit(1);
});
server.listen(port, host, () => {
  console.log(`${new Date().toISOString()} answers on http://${host}:${port}`);
  // What goes wrong with it is told to whoever asks for that stock.
  readStockAhead(larderActor).catch(() => undefined);
});
for (const signal of ["SIGTERM", "SIGINT"] as const) process.once(signal, () => process.exit(0));
