/** Who may ask at all: under which names Larder answers, and from which pages something may be changed. */
import { Failure } from "@larder/core/model/failure";
import { settings } from "@larder/server/settings";

const reading = new Set(["GET", "HEAD", "OPTIONS"]);

/** The name in a Host header, without its port; null where it is none. */
function nameIn(host: string | null): string | null {
  if (host === null) return null;
  try {
    const url = new URL(`http://${host}`);
    return url.pathname === "/" && url.username === "" && url.search === "" ? url.hostname : null;
  } catch {
    return null;
  }
}

const isLoopback = (name: string) =>
  name === "localhost" || name.endsWith(".localhost") || name === "[::1]" || /^127(\.\d{1,3}){3}$/.test(name);

/** Whether Larder goes by this name: loopback's, the address it is bound to, and those of the setting LARDER_HOSTS. */
function answersTo(name: string): boolean {
  const { host, hosts } = settings();
  return isLoopback(name) || name === host || hosts.includes(name.toLowerCase());
}

/**
 * Lets a request in, or throws a Failure. A name that Larder does not go by is refused, whatever it points to: a page
 * elsewhere could have it point here (DNS rebinding). What changes something has to come from a page of Larder, or from
 * no page at all, as a script's does.
 */
export function guard(request: Request): void {
  const host = request.headers.get("host") ?? new URL(request.url).host;
  const name = nameIn(host);
  if (name === null || !answersTo(name))
    throw new Failure(
      "host-unknown",
      "Larder does not answer under this name. If it should, put the name into the setting LARDER_HOSTS.",
      421,
    );
  if (reading.has(request.method)) return;
  const origin = request.headers.get("origin");
  const site = request.headers.get("sec-fetch-site");
  const ours = origin === null ? site === null || site === "same-origin" || site === "none" : isOf(origin, host);
  if (!ours) throw new Failure("origin-foreign", "This request comes from another site.", 403);
}

/** Whether an Origin header names the very host that was asked; `null`, as sandboxed pages send it, names none. */
function isOf(origin: string, host: string): boolean {
  try {
    return new URL(origin).host === new URL(`http://${host}`).host;
  } catch {
    return false;
  }
}
