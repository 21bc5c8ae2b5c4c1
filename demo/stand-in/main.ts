/** The stand-in as a program of its own: `main.ts FOLDER PORT`. Started beside the application. */
import { mkdirSync } from "node:fs";
import path from "node:path";
import { startStandIn } from "./bucket";

const [folder = "", port = "0"] = process.argv.slice(2);
mkdirSync(path.join(folder, "millrace"), { recursive: true });
await startStandIn(folder, { port: Number(port) });
