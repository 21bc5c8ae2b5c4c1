/** A plan run on a source: its lines, and its outputs with their pictures. */
import type { OutgoingItem } from "@larder/core/formats/format";
import type { Findings } from "@larder/core/model/finding";
import { blankItem, type ClassInfo } from "@larder/core/model/item";
import { orderedClasses } from "@larder/core/plans/class-order";
import type { Flow } from "@larder/core/plans/flow";
import type { OutputContext } from "@larder/core/plans/outputs";
import type { Plan } from "@larder/core/plans/plan";
import { classInfosAfter } from "@larder/core/relabel/relabeling";
import { kindOf, type ManifestHeader, type ManifestLine } from "@larder/core/versions/manifest";
import { outputContext, versionLines } from "@larder/core/versions/version-lines";
import { readAhead } from "@larder/server/files/read-ahead";
import { renderedExtension } from "@larder/server/pixels/render";
import { renderOutputs } from "@larder/server/pixels/render-pool";
import type { PlannedSource } from "./planned-source";

/** A manifest's line as an item on its way out. */
export function itemOf(line: ManifestLine, sourcePath: string): Omit<OutgoingItem, "open"> {
  const { split, state, size, objects, classes, captions, fields, licence, copy } = line;
  return {
    ...blankItem(line.name),
    split,
    state,
    size,
    declared: size,
    objects,
    classes,
    captions,
    fields,
    ...(licence ? { licence } : {}),
    origin: { path: sourcePath, delivery: "", copy },
  };
}

/** A run of a plan on a source: everything that its packages are written from. */
export class Run {
  constructor(
    readonly source: PlannedSource,
    readonly plan: Plan,
    readonly flow: Flow,
    readonly classes: ClassInfo[],
    readonly context: OutputContext,
  ) {}

  static of(source: PlannedSource, plan: Plan): Run {
    const flow = source.flow(plan);
    const bands = flow.steps.find(({ step }) => step === "split")?.bands ?? [];
    const list = orderedClasses(flow.classes, plan.pack.classes, bands);
    const classes = classInfosAfter(list, source.classes, flow.relabeling);
    const context = outputContext(plan, flow, classes, (key) => Promise.resolve(source.load(key)));
    return new Run(source, plan, flow, classes, context);
  }

  get header(): ManifestHeader {
    return { larder: "manifest 2", classes: this.classes, images: this.plan.pack.images };
  }

  lines(report?: Findings): AsyncGenerator<{ line: ManifestLine; image: { name: string } }> {
    const { plan, flow, context, source } = this;
    return versionLines(source.stockImages([...flow.assigned.keys()].sort()), {
      plan,
      flow,
      context,
      extensionOf: (kind, recipe) => renderedExtension(kind, recipe, plan.pack.images),
      ...(report ? { report } : {}),
    });
  }

  /** The outputs of each image together, so that what is decoded is decoded once. */
  private async *groups() {
    let group: { line: ManifestLine; image: { name: string } }[] = [];
    for await (const entry of this.lines()) {
      if (group[0] && group[0].line.source !== entry.line.source) {
        yield group;
        group = [];
      }
      group.push(entry);
    }
    if (group.length > 0) yield group;
  }

  async *items(): AsyncGenerator<OutgoingItem> {
    const read = (key: string) => this.source.bytes(key);
    const made = async (group: { line: ManifestLine }[]): Promise<Uint8Array[]> => {
      const rendered = group.filter(({ line }) => line.made);
      const files =
        rendered.length === 0
          ? []
          : await renderOutputs(
              rendered.map(({ line }) => ({ recipe: line.recipe, kind: kindOf(line.name) })),
              this.plan.pack.images.quality,
              read,
            );
      return files;
    };
    // One list of files stands for a group: whoever asks for one of its pictures waits for all.
    for await (const { entry: group, bytes } of readAhead(this.groups(), made)) {
      let at = 0;
      for (const { line, image } of group) {
        const nth = line.made ? at++ : -1;
        const open = async () => (nth < 0 ? read(line.source) : ((await bytes())[nth] as Uint8Array));
        yield { ...itemOf(line, image.name), open };
      }
    }
  }
}
