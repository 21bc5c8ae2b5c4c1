/** Findings: what reading, settling and checking have to say, one line a problem however often it occurs. */
import { z } from "zod";

export const severities = ["error", "warning", "info"] as const;
export type Severity = (typeof severities)[number];

export const findingSchema = z.object({
  severity: z.enum(severities),
  code: z.string(),
  path: z.string(),
  /** The sentence, and with it the examples: all that there is to say, in one line. */
  message: z.string(),
  sentence: z.string(),
  /** Up to three places where it occurs, each with what exactly is the matter. */
  examples: z.array(z.string()),
  count: z.number().int().positive(),
});
export type Finding = z.infer<typeof findingSchema>;

type Sentence = { severity: Severity; one: string; many: (n: string) => string };

/** Every finding code with its severity and its sentence; the codes are fixed, scripts rely on them. */
export const findingSentences = {
  "image-missing": {
    severity: "error",
    one: "1 annotation names an image that is not there; it is left out.",
    many: (n) => `${n} annotations name images that are not there; they are left out.`,
  },
  "image-unreadable": {
    severity: "error",
    one: "1 file is not an image that can be decoded; it is left out.",
    many: (n) => `${n} files are not images that can be decoded; they are left out.`,
  },
  "address-failed": {
    severity: "error",
    one: "1 address did not give its picture; it is left out.",
    many: (n) => `${n} addresses did not give their pictures; they are left out.`,
  },
  "file-not-taken": {
    severity: "error",
    one: "1 file is of a kind that Larder cannot read; it is left out.",
    many: (n) => `${n} files are of kinds that Larder cannot read; they are left out.`,
  },
  "annotation-unreadable": {
    severity: "error",
    one: "1 annotation file cannot be parsed; its images come in unlabeled.",
    many: (n) => `${n} annotation files cannot be parsed; their images come in unlabeled.`,
  },
  "class-unknown": {
    severity: "error",
    one: "1 object refers to a class that is not in the class list; it is left out.",
    many: (n) => `${n} objects refer to classes that are not in the class list; they are left out.`,
  },
  "entry-unsafe": {
    severity: "error",
    one: "1 archive entry is unsafe; it is left out.",
    many: (n) => `${n} archive entries are unsafe; they are left out.`,
  },
  "labels-turned": {
    severity: "error",
    one: "1 picture's labels were made on the camera's unturned pixels; turn=labels turns them upright.",
    many: (n) => `${n} pictures' labels were made on the camera's unturned pixels; turn=labels turns them upright.`,
  },
  "labels-scaled": {
    severity: "error",
    one: "1 picture's labels were made on another scale of it; scale=labels scales them.",
    many: (n) => `${n} pictures' labels were made on another scale of them; scale=labels scales them.`,
  },
  "box-outside-image": {
    severity: "warning",
    one: "1 shape reaches past the image's edge; it is clipped.",
    many: (n) => `${n} shapes reach past their image's edge; they are clipped.`,
  },
  "shape-degenerate": {
    severity: "warning",
    one: "1 shape has no area, too few points or no numbers; it is dropped.",
    many: (n) => `${n} shapes have no area, too few points or no numbers; they are dropped.`,
  },
  "object-duplicate": {
    severity: "warning",
    one: "1 object says the same class and shape again on one image.",
    many: (n) => `${n} objects say the same class and shape again on one image.`,
  },
  "label-contradiction": {
    severity: "warning",
    one: "1 picture stands under two classes with the same bytes.",
    many: (n) => `${n} pictures stand under two classes with the same bytes.`,
  },
  "size-mismatch": {
    severity: "warning",
    one: "1 annotation gives another width and height than its file has; the file's count.",
    many: (n) => `${n} annotations give another width and height than their files have; the files' count.`,
  },
  "class-renamed": {
    severity: "warning",
    one: "1 class name is too long or holds signs that cannot be kept; it is kept in another form.",
    many: (n) => `${n} class names are too long or hold signs that cannot be kept; they are kept in another form.`,
  },
  "folder-renamed": {
    severity: "info",
    one: "1 class could not give its folder its name; a list beside the folders says which class it is.",
    many: (n) =>
      `${n} classes could not give their folders their names; a list beside the folders says which they are.`,
  },
  "class-similar": {
    severity: "info",
    one: "2 class names look like one class.",
    many: (n) => `${n} pairs of class names look like one class each.`,
  },
  "image-unlabeled": {
    severity: "info",
    one: "1 image has no annotation at all.",
    many: (n) => `${n} images have no annotation at all.`,
  },
  "image-empty": {
    severity: "info",
    one: "1 image is annotated as holding nothing.",
    many: (n) => `${n} images are annotated as holding nothing.`,
  },
  "exif-rotated": {
    severity: "info",
    one: "1 picture was turned by the camera; it is set upright.",
    many: (n) => `${n} pictures were turned by the camera; they are set upright.`,
  },
  "classes-missing": {
    severity: "info",
    one: "No class list came along; names were made up.",
    many: () => "No class list came along; names were made up.",
  },
  "format-ambiguous": {
    severity: "info",
    one: "More than one reading fits.",
    many: (n) => `More than one reading fits, in ${n} places.`,
  },
  "box-as-corners": {
    severity: "info",
    one: "1 box goes out as an outline of its four corners.",
    many: (n) => `${n} boxes go out as outlines of their four corners.`,
  },
  "mirror-unpaired": {
    severity: "warning",
    one: "1 class has keypoints of which no left and right is known; a mirror swaps none of them.",
    many: (n) => `${n} classes have keypoints of which no left and right is known; a mirror swaps none of them.`,
  },
  "mask-unused": {
    severity: "info",
    one: "1 mask belongs to no object; the boxes stay.",
    many: (n) => `${n} masks belong to no object; the boxes stay.`,
  },
  "already-in-stock": {
    severity: "info",
    one: "1 picture is in stock already with the same bytes; it is skipped.",
    many: (n) => `${n} pictures are in stock already with the same bytes; they are skipped.`,
  },
  "copy-in-delivery": {
    severity: "info",
    one: "1 picture comes twice in this delivery with the same bytes; the first is taken.",
    many: (n) => `${n} pictures come again in this delivery with the same bytes; the first of each is taken.`,
  },
  "labels-changed": {
    severity: "info",
    one: "1 picture that was in stock already got this delivery's labels.",
    many: (n) => `${n} pictures that were in stock already got this delivery's labels.`,
  },
  "near-copy": {
    severity: "info",
    one: "1 picture is nearly the same as another.",
    many: (n) => `${n} pictures are nearly the same as others.`,
  },
  "loss-polygon": {
    severity: "warning",
    one: "1 outline becomes a box around it.",
    many: (n) => `${n} outlines become boxes around them.`,
  },
  "loss-mask": {
    severity: "warning",
    one: "1 mask or hole cannot be carried exactly.",
    many: (n) => `${n} masks or holes cannot be carried exactly.`,
  },
  "loss-keypoints": {
    severity: "warning",
    one: "1 object loses its keypoints.",
    many: (n) => `${n} objects lose their keypoints.`,
  },
  "loss-rotation": {
    severity: "warning",
    one: "1 rotated box becomes an upright one.",
    many: (n) => `${n} rotated boxes become upright ones.`,
  },
  "loss-attributes": {
    severity: "warning",
    one: "1 object loses attributes or flags.",
    many: (n) => `${n} objects lose attributes or flags.`,
  },
  "loss-caption": {
    severity: "warning",
    one: "1 image loses its captions or fields.",
    many: (n) => `${n} images lose their captions or fields.`,
  },
  "loss-image-class": {
    severity: "warning",
    one: "1 image loses an image-level class.",
    many: (n) => `${n} images lose image-level classes.`,
  },
  "loss-object": {
    severity: "warning",
    one: "1 object cannot be carried at all.",
    many: (n) => `${n} objects cannot be carried at all.`,
  },
  "loss-state": {
    severity: "warning",
    one: "1 image that holds nothing cannot be told from an unlabeled one.",
    many: (n) => `${n} images that hold nothing cannot be told from unlabeled ones.`,
  },
  "loss-split": {
    severity: "warning",
    one: "1 image has no split, which the format cannot say; it goes to train.",
    many: (n) => `${n} images have no split, which the format cannot say; they go to train.`,
  },
} satisfies Record<string, Sentence>;

export type FindingCode = keyof typeof findingSentences;

/** Images an error finding concerns most come first; then by how often. */
export function worstFirst(
  a: Pick<Finding, "severity" | "count" | "code">,
  b: Pick<Finding, "severity" | "count" | "code">,
): number {
  return (
    severities.indexOf(a.severity) - severities.indexOf(b.severity) || b.count - a.count || (a.code < b.code ? -1 : 1)
  );
}

const examplesKept = 3;
const exampleLength = 160;

/** Collects findings by code; each keeps its count, its first path and up to three examples. */
export class Findings {
  private byCode = new Map<FindingCode, { count: number; path: string; examples: string[] }>();

  /** Adds `count` occurrences of `code` at `path`; `detail` says what exactly, for the examples. */
  add(code: FindingCode, path: string, detail?: string, count = 1): void {
    const entry = this.byCode.get(code) ?? { count: 0, path, examples: [] };
    entry.count += count;
    if (entry.examples.length < examplesKept) {
      const example = [path, detail].filter(Boolean).join(": ").slice(0, exampleLength);
      if (example !== "" && !entry.examples.includes(example)) entry.examples.push(example);
    }
    this.byCode.set(code, entry);
  }

  count(code: FindingCode): number {
    return this.byCode.get(code)?.count ?? 0;
  }

  /** Takes over what another collector gathered. */
  merge(others: Iterable<Pick<Finding, "code" | "path" | "count" | "examples">>): void {
    for (const other of others) {
      const code = other.code as FindingCode;
      if (!(code in findingSentences)) continue;
      const entry = this.byCode.get(code) ?? { count: 0, path: other.path, examples: [] };
      entry.count += other.count;
      entry.examples = [...new Set([...entry.examples, ...other.examples])].slice(0, examplesKept);
      this.byCode.set(code, entry);
    }
  }

  list(): Finding[] {
    return [...this.byCode]
      .map(([code, entry]): Finding => {
        const { severity, one, many } = findingSentences[code] as Sentence;
        const sentence = entry.count === 1 ? one : many(entry.count.toLocaleString("en-US"));
        const { path, count, examples } = entry;
        const message = examples.length > 0 ? `${sentence} For example: ${examples.join(" · ")}` : sentence;
        return { severity, code, path, message, sentence, examples, count };
      })
      .sort(worstFirst);
  }
}
