/** How a delivery will be read: the format that fits best, or the one a person chose, and what else would fit. */
import { readingOptions } from "@larder/core/formats/options";
import { formatNamed } from "@larder/core/formats/registry";
import { sniff, type Guess } from "@larder/core/formats/sniff";
import type { Reading } from "@larder/core/formats/format";
import type { IntakeChoices } from "@larder/core/intake/choices";
import { Failure } from "@larder/core/model/failure";
import { untakenText } from "@larder/core/imaging/untaken-kinds";
import { extensionOf, isImagePath, type FileTree } from "@larder/core/model/file-tree";
import type { Findings } from "@larder/core/model/finding";
import { withStock, type OpenedOrigin } from "./origin";

export type Understood = {
  opened: OpenedOrigin;
  format: string;
  title: string;
  reason: string;
  others: { format: string; reason: string }[];
  read: (tree: FileTree) => Promise<Reading>;
};

async function guessesFor(tree: FileTree): Promise<Guess[]> {
  return sniff(tree).catch((error: unknown) => {
    if (error instanceof Failure && error.code === "nothing-readable") return [];
    throw error;
  });
}

/**
 * Throws a Failure where there is nothing that could become an image. Annotations that come alone are held against the
 * collection's stock.
 */
export async function understand(
  opened: OpenedOrigin,
  choices: IntakeChoices,
  collectionId: number,
  report: Findings,
): Promise<Understood> {
  const { reading } = opened;
  if (reading)
    return {
      opened,
      format: "collection",
      title: "a collection",
      reason: reading.reason,
      others: [],
      read: () => reading.read(),
    };
  let origin = opened;
  const entries = await origin.tree.entries();
  const unsafe = report.count("entry-unsafe");
  if (entries.length === 0) {
    throw new Failure(
      "archive-empty",
      unsafe > 0
        ? `None of its ${unsafe} entries is safe to take: ${report.list()[0]?.message ?? ""}`
        : "It is empty: there is no file in it.",
    );
  }
  let guesses = await guessesFor(origin.tree);
  const holdsPictures =
    entries.some(({ path }) => isImagePath(path) || extensionOf(path) === "rec") ||
    guesses[0]?.format.loosePictures === false;
  if (!holdsPictures) {
    origin = await withStock(opened, collectionId);
    guesses = origin.onlyLabeled
      ? (await guessesFor(origin.tree)).filter(
          ({ format }) => format.name !== "images-only" && format.name !== "class-folders",
        )
      : [];
  }
  if (guesses.length === 0) {
    throw new Failure(
      "no-images",
      untakenText(entries.map(({ path }) => path)) ??
        `There is no picture in it, and no annotation of pictures in stock, among its ${entries.length.toLocaleString("en-US")} ${entries.length === 1 ? "file" : "files"}. Bring the images together with their annotations.`,
    );
  }
  const others = guesses.map(({ format, reason }) => ({ format: format.name, reason }));
  if (choices.format !== null) {
    const format = formatNamed(choices.format);
    return {
      opened: origin,
      format: format.name,
      title: format.title,
      reason: "chosen by hand",
      others: others.filter((other) => other.format !== format.name),
      read: (tree) => format.read(tree, readingOptions(format, choices.options), report),
    };
  }
  const { format, reason } = guesses[0] as Guess;
  return {
    opened: origin,
    format: format.name,
    title: format.title,
    reason,
    others: others.slice(1),
    read: (tree) => format.read(tree, readingOptions(format, choices.options), report),
  };
}
