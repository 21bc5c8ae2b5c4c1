import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { isImagePath } from "../model/file-tree";
import { readAddressList } from "./address-list";

describe("readAddressList", () => {
  it("finds the columns by their names, wherever they stand", () => {
    expect(readAddressList("id,file_name,image_url\n7,tray.png,https://a.org/1\n").addresses).toEqual([
      { url: "https://a.org/1", name: "tray.png" },
    ]);
  });
  it("skips comments and empty lines, and keeps a comma that belongs to an address", () => {
    expect(readAddressList("# trays\n\nhttps://a.org/x.jpg?size=1,2,3\n").addresses).toEqual([
      { url: "https://a.org/x.jpg?size=1,2,3", name: "x.jpg" },
    ]);
  });
  it("gives what further columns say of the pictures, every row of them", () => {
    const list =
      "url,label,split\nhttps://a.org/1.jpg,roll,train\nhttps://a.org/2.jpg,tart,val\nhttps://a.org/1.jpg,rye,train\n";
    expect(readAddressList(list).labels).toBe(
      "filename,label,split\n1.jpg,roll,train\n2.jpg,tart,val\n1.jpg,rye,train\n",
    );
    expect(readAddressList("id,url\n7,https://a.org/1.jpg\n").labels).toBeNull();
    expect(readAddressList("https://a.org/1.jpg\n").labels).toBeNull();
  });
  it("names the lines that hold no address, and keeps the others", () => {
    const { addresses, problems } = readAddressList("url\nhttps://a.org/a.jpg\nnonsense\nfile:///etc/passwd\n");
    expect(addresses).toHaveLength(1);
    expect(problems).toEqual(['line 3: "nonsense"', 'line 4: "file:///etc/passwd"']);
  });
  it("gives each address once, under a picture's name of its own that never leads out", () => {
    fc.assert(
      fc.property(fc.array(fc.webUrl({ withQueryParameters: true }), { maxLength: 30 }), (urls) => {
        const { addresses } = readAddressList(["url", ...urls.map((url) => `"${url}"`)].join("\n"));
        const wanted = new Set(urls.map((url) => new URL(url).href));
        expect(new Set(addresses.map(({ url }) => url))).toEqual(wanted);
        expect(new Set(addresses.map(({ name }) => name)).size).toBe(wanted.size);
        for (const { name } of addresses) expect(isImagePath(name) && !name.split("/").includes("..")).toBe(true);
      }),
    );
  });
});
