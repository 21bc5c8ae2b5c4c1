/** What can be asked of an image and of an object, and what kind of value each field holds. */

/**
 * `words` are texts of a closed list, `texts` any texts (several may stand), `numbers` are counted or measured, `dates`
 * moments, `truths` yes or no. An attribute may hold any of them.
 */
export type FieldKind = "words" | "texts" | "numbers" | "dates" | "truths" | "attribute";

export type FieldInfo = {
  kind: FieldKind;
  meaning: string;
  words?: readonly string[];
  /** Set where an attribute of the same name goes before it. */
  yields?: boolean;
};

const splits = ["train", "val", "test", "none"] as const;
const states = ["unlabeled", "empty", "labeled"] as const;
const reviews = ["todo", "labeled", "approved", "back"] as const;
export const shapeKinds = ["box", "rotated-box", "polygon", "mask", "keypoints", "line"] as const;

export const imageFields = {
  name: { kind: "texts", meaning: "its path in stock; like also matches the base name alone" },
  split: { kind: "words", words: splits, meaning: "train, val, test or none" },
  state: { kind: "words", words: states, meaning: "unlabeled, empty or labeled" },
  class: { kind: "texts", meaning: "an image-level class" },
  tag: { kind: "texts", meaning: "a tag; several may stand" },
  objects: { kind: "numbers", meaning: "how many objects are on it" },
  width: { kind: "numbers", meaning: "pixels of the upright image" },
  height: { kind: "numbers", meaning: "pixels of the upright image" },
  megapixels: { kind: "numbers", meaning: "width × height, in millions" },
  ratio: { kind: "numbers", meaning: "width / height" },
  bytes: { kind: "numbers", meaning: "the length of its file" },
  taken: { kind: "dates", meaning: "when it was shot" },
  arrived: { kind: "dates", meaning: "when it came into stock" },
  changed: { kind: "dates", meaning: "when its labels last changed" },
  delivery: { kind: "texts", meaning: "the name of its delivery" },
  source: { kind: "texts", meaning: "where its delivery is from" },
  licence: { kind: "texts", meaning: "the licence of its delivery" },
  camera: { kind: "texts", meaning: "the camera of its delivery" },
  place: { kind: "texts", yields: true, meaning: "where it was shot, to a hundredth of a degree: 52.37 4.90" },
  caption: { kind: "texts", meaning: "a caption" },
  "near-copies": { kind: "numbers", meaning: "images in the collection that are nearly the same" },
  finding: { kind: "texts", meaning: "the code of a finding" },
  pinned: { kind: "truths", meaning: "whether it stays in its split" },
  turned: { kind: "truths", meaning: "whether the camera's rotation flag turns it" },
  packet: { kind: "texts", meaning: "the packet it is in" },
  by: { kind: "texts", meaning: "who labeled it" },
  review: { kind: "words", words: reviews, meaning: "where it stands in review" },
  suggestions: { kind: "numbers", meaning: "proposed objects and classes that nobody has answered" },
  likely: { kind: "numbers", meaning: "the lowest confidence among its suggestions, 0 to 1" },
} as const satisfies Record<string, FieldInfo>;

export const objectFields = {
  width: { kind: "numbers", meaning: "of its box, in pixels" },
  height: { kind: "numbers", meaning: "of its box, in pixels" },
  area: { kind: "numbers", meaning: "of the shape itself, in square pixels; keypoints: of their box" },
  share: { kind: "numbers", meaning: "its area as a share of the image's" },
  ratio: { kind: "numbers", meaning: "width / height of its box" },
  x: { kind: "numbers", meaning: "centre of its box, as a share of the image's width" },
  y: { kind: "numbers", meaning: "centre of its box, as a share of the image's height" },
  confidence: { kind: "numbers", meaning: "how sure its maker was, 0 to 1" },
  shape: { kind: "words", words: shapeKinds, meaning: shapeKinds.join(", ") },
  crowd: { kind: "truths", meaning: "a crowd" },
  occluded: { kind: "truths", meaning: "partly hidden" },
  truncated: { kind: "truths", meaning: "cut by the edge" },
  difficult: { kind: "truths", meaning: "hard to see" },
  suggested: { kind: "truths", meaning: "proposed, and not answered yet" },
  by: { kind: "texts", meaning: "who made it" },
} as const satisfies Record<string, FieldInfo>;

export type ImageField = keyof typeof imageFields;
export type ObjectField = keyof typeof objectFields;
