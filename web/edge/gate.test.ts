import { describe, expect, it } from "vitest";
import { refusal } from "./gate";

const host = "127.0.0.1:4600";
const ask = (method: string, headers: Record<string, string> = {}, url = "/api/x") =>
  refusal({ method, url, headers: { host, ...headers } })?.code ?? null;

describe("the gate", () => {
  it.each(["127.0.0.1:4600", "localhost:4600", "LOCALHOST", "larder.localhost", "[::1]:4600", "127.8.9.1"])(
    "lets in who asks for %s",
    (name) => expect(ask("GET", { host: name })).toBeNull(),
  );
  it.each([
    "evil.test",
    "evil.test:4600",
    "127.0.0.1.evil.test",
    "localhost.evil.test",
    "evil.test#localhost",
    "localhost@evil.test",
    "",
    "a b",
    "128.0.0.1",
  ])("turns away who asks for %j, as one whose name was made to point here", (name) =>
    expect(ask("GET", { host: name })).toBe("host-unknown"),
  );
  it.each([
    [{}, null],
    [{ origin: "http://127.0.0.1:4600" }, null],
    [{ origin: "http://127.0.0.1:4601" }, "origin-foreign"],
    [{ origin: "http://localhost:4600" }, "origin-foreign"],
    [{ origin: "https://evil.test" }, "origin-foreign"],
    [{ origin: "null" }, "origin-foreign"],
    [{ origin: "" }, "origin-foreign"],
    [{ "sec-fetch-site": "same-origin" }, null],
    [{ "sec-fetch-site": "cross-site" }, "origin-foreign"],
    [{ "sec-fetch-site": "same-site" }, "origin-foreign"],
  ])("of one who changes something and comes with %j says %j", (headers, code) => {
    for (const method of ["POST", "PUT", "PATCH", "DELETE"]) expect(ask(method, headers)).toBe(code);
    expect(ask("GET", headers)).toBeNull();
  });
  it("knows the methods of the trade alone", () => {
    for (const method of ["TRACE", "CONNECT", "PROPFIND", "get", ""]) expect(ask(method)).toBe("method-unknown");
    for (const method of ["HEAD", "OPTIONS"]) expect(ask(method)).toBeNull();
  });
  it("takes no address that is broken or endless", () => {
    for (const url of ["/api/%ff", "/api/%", "/a%00b", "/%E0%A4%A"]) expect(ask("GET", {}, url)).toBe("address-broken");
    expect(ask("GET", {}, "/c/1/stock?class=%ff")).toBeNull();
    expect(ask("GET", {}, `/${"a".repeat(210_000)}`)).toBe("address-too-long");
    expect(ask("GET", {}, "/c/1/stock?class=Br%C3%B6tchen")).toBeNull();
  });
});
