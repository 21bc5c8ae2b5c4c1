/**
 * The gate that every request passes before anything reads it: under which names Larder answers, from which pages
 * something may be changed, and what is no request at all.
 */
import { Failure } from "@larder/core/model/failure";
import { settings } from "@larder/server/settings";
import type { IncomingMessage } from "node:http";

type Headers = IncomingMessage["headers"];

const reading = new Set(["GET", "HEAD", "OPTIONS"]);
const changing = new Set(["POST", "PUT", "PATCH", "DELETE"]);
/** A longer address is nobody's: a selection has 20,000 signs, each of up to nine letters as addresses write them. */
const longestAddress = 200 * 1024;

/** The name in a Host header, without its port; null where it is none. */
function nameIn(host: string | undefined): string | null {
  if (host === undefined) return null;
  try {
    const url = new URL(`http://${host}`);
    return url.pathname === "/" && url.username === "" && url.search === "" && url.hash === "" ? url.hostname : null;
  } catch {
    return null;
  }
}

const isLoopback = (name: string) =>
  name === "localhost" || name.endsWith(".localhost") || name === "[::1]" || /^127(\.\d{1,3}){3}$/.test(name);

/** Whether Larder goes by this name: loopback's, the address it is bound to, and those of the setting LARDER_HOSTS. */
function answersTo(name: string): boolean {
  const { host, hosts } = settings();
  return isLoopback(name) || name === host || hosts.includes(name);
}

/** Whether a page of Larder asks, or no page at all, as a script does. `null` is the origin of a sandboxed page. */
function comesFromHere({ origin, host, "sec-fetch-site": site }: Headers): boolean {
  if (origin === undefined) return site === undefined || site === "same-origin" || site === "none";
  try {
    return new URL(origin).host === new URL(`http://${host ?? ""}`).host;
  } catch {
    return false;
  }
}

function isReadable(address: string): boolean {
  try {
    return !decodeURIComponent(address.split("?")[0] ?? "").includes("\0");
  } catch {
    return false;
  }
}

/**
 * Why a request is turned away; null where it may pass. A name that Larder does not go by is refused whatever it points
 * to: a page elsewhere could have a name of its own point here (DNS rebinding).
 */
export function refusal({ method = "", url = "", headers }: Pick<IncomingMessage, "method" | "url" | "headers">) {
  if (!reading.has(method) && !changing.has(method))
    return new Failure("method-unknown", "Larder does not know this method.", 405);
  if (url.length > longestAddress)
    return new Failure("address-too-long", "This address is too long. Choose fewer filters at once.", 414);
  if (!isReadable(url)) return new Failure("address-broken", "This address is broken: its escapes do not fit.", 400);
  const name = nameIn(headers.host);
  if (name === null || !answersTo(name))
    return new Failure(
      "host-unknown",
      "Larder does not answer under this name. If it should, put the name into the setting LARDER_HOSTS.",
      421,
    );
  if (changing.has(method) && !comesFromHere(headers))
    return new Failure("origin-foreign", "This request comes from another site.", 403);
  return null;
}
