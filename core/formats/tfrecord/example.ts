/** tf.train.Example as protocol buffers, by the published schema (example.proto, feature.proto). */
import protobuf, { type IMapField, type INamespace } from "protobufjs/light";

const published: INamespace = {
  nested: {
    BytesList: { fields: { value: { rule: "repeated", type: "bytes", id: 1 } } },
    FloatList: { fields: { value: { rule: "repeated", type: "float", id: 1, options: { packed: true } } } },
    Int64List: { fields: { value: { rule: "repeated", type: "int64", id: 1, options: { packed: true } } } },
    Feature: {
      oneofs: { kind: { oneof: ["bytesList", "floatList", "int64List"] } },
      fields: {
        bytesList: { type: "BytesList", id: 1 },
        floatList: { type: "FloatList", id: 2 },
        int64List: { type: "Int64List", id: 3 },
      },
    },
    Features: { fields: { feature: { keyType: "string", type: "Feature", id: 1 } as IMapField } },
    Example: { fields: { features: { type: "Features", id: 1 } } },
  },
};
const root = protobuf.Root.fromJSON(published);
const exampleType = root.lookupType("Example");

type Feature = {
  bytesList?: { value?: Uint8Array[] };
  floatList?: { value?: number[] };
  int64List?: { value?: (number | { toNumber(): number })[] };
};

/** An example's features by name, each as what it holds. */
export class Example {
  private constructor(private readonly features: Record<string, Feature>) {}

  /** Throws where the bytes are no example. Byte values share the memory of `data`. */
  static decode(data: Uint8Array): Example {
    const { features } = exampleType.decode(data) as unknown as { features?: { feature?: Record<string, Feature> } };
    return new Example(features?.feature ?? {});
  }

  has(name: string): boolean {
    return Object.hasOwn(this.features, name);
  }

  bytes(name: string): Uint8Array[] {
    return this.features[name]?.bytesList?.value ?? [];
  }

  texts(name: string): string[] {
    return this.bytes(name).map((value) => new TextDecoder().decode(value));
  }

  /** Numbers, whether they were kept as floats or integers. */
  numbers(name: string): number[] {
    const feature = this.features[name];
    return (
      feature?.floatList?.value ??
      (feature?.int64List?.value ?? []).map((value) => (typeof value === "number" ? value : value.toNumber()))
    );
  }
}

export type FeatureValue = { bytes: (Uint8Array | string)[] } | { floats: number[] } | { integers: number[] };

/** Features as the bytes of an example. */
export function encodeExample(features: Record<string, FeatureValue>): Uint8Array {
  const encoder = new TextEncoder();
  const feature: Record<string, Feature> = {};
  for (const [name, value] of Object.entries(features)) {
    if ("bytes" in value)
      feature[name] = {
        bytesList: { value: value.bytes.map((entry) => (typeof entry === "string" ? encoder.encode(entry) : entry)) },
      };
    else if ("floats" in value) feature[name] = { floatList: { value: value.floats } };
    else feature[name] = { int64List: { value: value.integers } };
  }
  return exampleType.encode(exampleType.create({ features: { feature } })).finish();
}
