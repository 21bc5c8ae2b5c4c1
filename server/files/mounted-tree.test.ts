import { MemoryTree } from "@larder/core/tests/memory-tree";
import { RecordingTree } from "@larder/core/formats/recording-tree";
import { describe, expect, it } from "vitest";
import { MountedTree } from "./mounted-tree";

const text = async (tree: MountedTree, path: string) => new TextDecoder().decode(await tree.read(path));

describe("MountedTree", () => {
  const tree = new MountedTree([
    { at: "", tree: new MemoryTree({ "a.txt": "top", "x/b.txt": "top b" }) },
    { at: "x", tree: new MemoryTree({ "b.txt": "mounted b", "c.txt": "mounted c" }) },
  ]);
  it("lists every file once, in the order of paths; of two alike the first counts", async () => {
    expect((await tree.entries()).map(({ path }) => path)).toEqual(["a.txt", "x/b.txt", "x/c.txt"]);
    expect(await text(tree, "x/b.txt")).toBe("top b");
    expect(await text(tree, "x/c.txt")).toBe("mounted c");
  });
  it("streams and reads ranges from where a file is", async () => {
    let streamed = "";
    for await (const chunk of tree.stream("x/c.txt")) streamed += new TextDecoder().decode(chunk);
    expect(streamed).toBe("mounted c");
    expect(new TextDecoder().decode(await tree.readRange("x/c.txt", 2, 5))).toBe("unt");
    await expect(tree.read("nothing")).rejects.toThrow(/no nothing in this delivery/);
  });
});

describe("RecordingTree", () => {
  it("notes files that were read, but no pictures", async () => {
    const tree = new RecordingTree(
      new MemoryTree({ "a.json": "{}", "b.jpg": "x", "c.xml": "<a/>", "d.txt": "unread" }),
    );
    await tree.read("a.json");
    await tree.read("b.jpg");
    await tree.readRange("c.xml", 0, 2);
    await tree.entries();
    expect([...tree.used]).toEqual(["a.json", "c.xml"]);
  });
});
