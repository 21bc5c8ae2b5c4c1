import { describe, expect, it } from "vitest";
import { missingAttributes, type AttributeSchema } from "./attribute-schema";

const schemas: AttributeSchema[] = [
  { kind: "choice", name: "crust", required: true, help: "", values: ["soft", "hard"] },
  { kind: "yes-no", name: "cut", required: true, help: "", default: false },
  { kind: "number", name: "weight", required: false, help: "" },
  { kind: "text", name: "constructor", required: true, help: "" },
];

describe("missing attributes", () => {
  it("names what has to be said and is not, but nothing that has a value of its own", () => {
    expect(missingAttributes(schemas, undefined)).toEqual(["crust", "constructor"]);
    expect(missingAttributes(schemas, { crust: "soft", constructor: "me" })).toEqual([]);
    expect(missingAttributes(schemas, { cut: true, weight: 0, crust: "" })).toEqual(["constructor"]);
  });
});
