/**
 * Fetches a picture from a web address. Only allowed hosts are asked, and never one that leads inside the own network.
 */
import { Failure } from "@larder/core/model/failure";
import ipaddr from "ipaddr.js";
import { lookup } from "node:dns";
import { isIP, type LookupFunction } from "node:net";
import { setTimeout as sleep } from "node:timers/promises";
import { Agent, request, type Dispatcher } from "undici";

/**
 * `allowed` holds "*" (every public host), "example.org", "*.example.org" or "127.0.0.1:4700"; sizes in bytes, times
 * in milliseconds.
 */
export type AddressRules = { allowed: readonly string[]; maxBytes: number; timeout: number; attempts?: number };

const mostRedirects = 5;
const pictureTypes = /^(image\/|application\/octet-stream|binary\/octet-stream|$)/i;

function isPublic(address: string): boolean {
  return ipaddr.process(address).range() === "unicast";
}

/** Whether a rule names this host and port outright; "*" does not. */
function namedBy(rules: AddressRules, url: URL): boolean {
  const host = url.hostname.replace(/^\[|\]$/g, "").toLowerCase();
  const port = url.port || (url.protocol === "https:" ? "443" : "80");
  return rules.allowed.some((rule) => {
    const lower = rule.trim().toLowerCase();
    if (lower === host || lower === `${host}:${port}`) return true;
    return lower.startsWith("*.") && host.endsWith(lower.slice(1));
  });
}

/** Throws where an address must not be asked. Private addresses must be listed with their host. */
export function checkAddress(address: string, rules: AddressRules): URL {
  let url: URL;
  try {
    url = new URL(address);
  } catch {
    throw new Failure("address-invalid", `"${address.slice(0, 120)}" is not a web address.`);
  }
  if (url.protocol !== "http:" && url.protocol !== "https:")
    throw new Failure("address-refused", `${url.protocol}// is not taken; addresses begin with http:// or https://.`);
  if (url.username !== "" || url.password !== "")
    throw new Failure("address-refused", "An address with a name and password in it is not taken.");
  const named = namedBy(rules, url);
  if (!named && !rules.allowed.includes("*"))
    throw new Failure("address-refused", `${url.host} is not among the allowed hosts (LARDER_ADDRESSES_ALLOWED).`);
  const host = url.hostname.replace(/^\[|\]$/g, "");
  if (!named && isIP(host) !== 0 && !isPublic(host))
    throw new Failure(
      "address-refused",
      `${url.host} is a private address; it is only asked when it is listed in LARDER_ADDRESSES_ALLOWED.`,
    );
  return url;
}

/** Names are looked up here and only here, so that what was checked is what is asked. */
function checkedLookup(named: boolean): LookupFunction {
  return (hostname, options, callback) => {
    lookup(hostname, { ...options, all: true }, (error, addresses) => {
      if (error) return callback(error, []);
      const fit = named ? addresses : addresses.filter(({ address }) => isPublic(address));
      if (fit.length === 0)
        return callback(new Failure("address-refused", `${hostname} leads to a private address.`), []);
      if (options.all) callback(null, fit);
      else callback(null, fit[0]?.address as string, fit[0]?.family);
    });
  };
}

const agents = new Map<boolean, Agent>();
function agent(named: boolean, timeout: number): Dispatcher {
  const known =
    agents.get(named) ??
    new Agent({ connect: { lookup: checkedLookup(named), timeout: Math.min(timeout, 15_000) }, connections: 8 });
  agents.set(named, known);
  return known;
}

class Passing extends Error {}

async function once(address: string, rules: AddressRules): Promise<Uint8Array> {
  let url = checkAddress(address, rules);
  for (let redirects = 0; ; redirects++) {
    const limit = AbortSignal.timeout(rules.timeout);
    const answer = await request(url, {
      dispatcher: agent(namedBy(rules, url), rules.timeout),
      signal: limit,
      headers: { accept: "image/*,*/*;q=0.5", "user-agent": "larder" },
    });
    const { statusCode: status, headers, body } = answer;
    // A body that is given up says so by an error; nobody else needs to hear of it.
    body.on("error", () => undefined);
    if (status >= 300 && status < 400 && typeof headers["location"] === "string") {
      await body.dump();
      if (redirects >= mostRedirects)
        throw new Failure("address-failed", `${url.host} sends on more than ${mostRedirects} times.`);
      url = checkAddress(new URL(headers["location"], url).href, rules);
      continue;
    }
    if (status === 429 || status >= 500) {
      await body.dump();
      throw new Passing(`${url.host} answered ${status}`);
    }
    if (status !== 200) {
      await body.dump();
      throw new Failure(
        "address-failed",
        `${url.host} answered ${status}${status === 404 ? ": it is not there" : status === 401 || status === 403 ? ": it may not be fetched" : ""}.`,
      );
    }
    const type =
      String(headers["content-type"] ?? "")
        .split(";")[0]
        ?.trim() ?? "";
    if (!pictureTypes.test(type)) {
      body.destroy();
      throw new Failure("address-failed", `${url.host} gave ${type}, not a picture.`);
    }
    const announced = Number(headers["content-length"] ?? Number.NaN);
    const tooLarge = () =>
      new Failure(
        "address-failed",
        `it is larger than the ${Math.round(rules.maxBytes / 2 ** 20)} MB allowed (LARDER_MAX_FETCH_MB).`,
      );
    if (announced > rules.maxBytes) {
      body.destroy();
      throw tooLarge();
    }
    const chunks: Uint8Array[] = [];
    let size = 0;
    for await (const chunk of body as AsyncIterable<Uint8Array>) {
      size += chunk.length;
      if (size > rules.maxBytes) {
        body.destroy();
        throw tooLarge();
      }
      chunks.push(chunk);
    }
    if (Number.isFinite(announced) && size !== announced)
      throw new Passing(`${url.host} sent ${size} of ${announced} bytes`);
    return Buffer.concat(chunks);
  }
}

/**
 * The bytes at an address. What may pass (a busy or broken connection) is tried again; then a Failure says what is
 * wrong.
 */
export async function fetchAddress(address: string, rules: AddressRules): Promise<Uint8Array> {
  const attempts = rules.attempts ?? 4;
  for (let attempt = 1; ; attempt++) {
    try {
      return await once(address, rules);
    } catch (error) {
      if (error instanceof Failure) throw error;
      const cause = (error as { cause?: unknown }).cause;
      if (cause instanceof Failure) throw cause;
      const { name, message } = error as Error;
      if (attempt >= attempts) {
        const declared =
          name === "TimeoutError"
            ? `it did not answer within ${Math.round(rules.timeout / 1000)} s`
            : message || "the connection was cut";
        throw new Failure("address-failed", `${declared}; tried ${attempts} times.`);
      }
      await sleep(200 * 2 ** (attempt - 1));
    }
  }
}
