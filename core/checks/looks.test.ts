import { expect, it } from "vitest";
import { smallSnapshot, blankImage } from "../tests/small-snapshot";
import { packLooks, unpackLooks } from "./looks";

const snapshot = () =>
  smallSnapshot(
    ["roll", "tart"],
    [{ objects: [{ of: "roll" }] }, { objects: [{ of: "roll" }, { of: "tart" }] }, { objects: [{ of: "tart" }] }],
  );

it("are the same after they were kept as bytes, and come without images that changed since", () => {
  const stock = snapshot();
  const roll = stock.classIndex(1);
  const looks = {
    labels: [
      { slot: 1, object: 2, likely: roll, sure: 0.75 },
      { slot: 2, object: 3, likely: roll, sure: 0.5 },
    ],
    images: [{ slot: 0, object: 0, likely: roll, sure: 0.9 }],
    unlike: [{ slot: 1, object: 1, nearer: 0.125 }],
  };
  const bytes = packLooks(stock, looks);
  expect(unpackLooks(stock, bytes)).toEqual(looks);
  // The second image is put in anew at a later revision: of it nothing is said.
  stock.putImage({ ...blankImage, id: stock.ids.at(1), hash: new Uint8Array(32), name: "1.jpg", changed: 9 });
  expect(unpackLooks(stock, bytes)).toEqual({ labels: [looks.labels[1]], images: looks.images, unlike: [] });
});
