/** A snapshot of a few images, written down for a test. */
import { noSuggestions, Snapshot, type SnapshotClass, type SnapshotImage } from "../snapshot/snapshot";
import { shapeKinds, type Keypoint } from "../model/shape";

export type SmallObject = {
  /** Its class's name. */
  of: string;
  box?: readonly [x: number, y: number, width: number, height: number];
  area?: number;
  attributes?: Record<string, string | number>;
  keypoints?: readonly Keypoint[];
};
export type SmallImage = Partial<Omit<SnapshotImage, "split" | "classes">> & {
  split?: SnapshotImage["split"];
  objects?: readonly SmallObject[];
  classes?: readonly string[];
};

export const blankImage: Omit<SnapshotImage, "id" | "hash"> = {
  ...{ delivery: 1, split: null, state: "unlabeled", width: 100, height: 80, bytes: 1, pinned: false, present: true },
  ...{ day: "", place: "", tags: [], classes: [], name: "", taken: Number.NaN, arrived: 0, changed: 0, turned: false },
  ...{ captions: [], findings: [], attributes: null, fieldKinds: [], nearCopies: [], suggestions: noSuggestions },
};

/** Images get the ids 1, 2, …; the classes are those named, in their order, with ids 1, 2, … */
export function smallSnapshot(
  names: readonly (string | Partial<SnapshotClass>)[],
  images: readonly SmallImage[],
): Snapshot {
  const snapshot = new Snapshot();
  snapshot.classes = names.map((one, n) => ({
    ...{ id: n + 1, name: "", colour: n, code: `C${n}` },
    ...(typeof one === "string" ? { name: one } : one),
  }));
  snapshot.deliveries = [1, 2].map((id) => ({
    ...{ id, name: `delivery ${id}`, source: "", licence: "", camera: "", day: "", place: "", listed: true },
  }));
  const idOf = (name: string) => snapshot.classes.find((one) => one.name === name)?.id ?? 0;
  images.forEach(({ objects = [], classes = [], ...image }, n) => {
    const hash = new Uint8Array(32);
    new DataView(hash.buffer).setUint32(0, n + 1);
    const slot = snapshot.putImage({
      ...{ ...blankImage, id: n + 1, hash, state: objects.length + classes.length > 0 ? "labeled" : "unlabeled" },
      ...{ name: `${n + 1}.jpg`, classes: classes.map(idOf), ...image },
    });
    for (const { of, box = [10, 10, 20, 20], area, attributes, keypoints = null } of objects) {
      const [x, y, width, height] = box;
      snapshot.pushObject({
        ...{ id: snapshot.objectClass.length + 1, classId: idOf(of), x, y, width, height },
        ...{ area: area ?? width * height, confidence: Number.NaN, shape: shapeKinds.indexOf("box"), flags: 0 },
        attributes: attributes ? JSON.stringify(attributes) : null,
        keypoints,
      });
      snapshot.countObject(slot);
    }
  });
  return snapshot;
}
