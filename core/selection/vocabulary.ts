/** The names and values that a stock has, for completing what is typed and for saying what nothing has. */
import type { KnownAttributes } from "./bind";

/** A value with how many images (of objects: how many objects) have it. */
export type Known = { value: string; count: number };

export type Vocabulary = {
  classes: readonly Known[];
  /** Values of the fields of images that are names: all that there are. */
  fields: Readonly<Record<string, readonly Known[]>>;
  /** Attributes of images and of objects with the values met most often. */
  image: readonly { name: string; values: readonly Known[] }[];
  object: readonly { name: string; values: readonly Known[] }[];
};

export const noVocabulary: Vocabulary = { classes: [], fields: {}, image: [], object: [] };

export function attributesIn({ image, object }: Vocabulary): KnownAttributes {
  const names = [...image, ...object].map(({ name }) => name);
  return { image: names, object: names };
}
