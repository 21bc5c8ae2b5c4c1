import { afterAll, beforeAll, describe, expect, it } from "vitest";
import {
  cocoFiles,
  deliverAndTakeIn,
  picture,
  saveArchive,
  startWorker,
  wholeStock,
  zipBytes,
} from "../../tests/bakery";
import { localActor } from "../actor";
import { act } from "../acts";
import { changeCollection, createCollection } from "../collections";
import { readStockAhead } from "./read-ahead";

let stop: () => void;
beforeAll(async () => (stop = await startWorker()));
afterAll(() => stop());

describe("the stock that is read as Larder starts", () => {
  it("is the one that was worked on last, of those on the shelf; there may be none", async () => {
    expect(await readStockAhead(localActor)).toBeNull();
    const ids: number[] = [];
    for (const [n, name] of ["Mornings", "Evenings"].entries()) {
      const { id } = await createCollection(localActor, { name });
      await deliverAndTakeIn(
        id,
        saveArchive(`${name}.zip`, await zipBytes(await cocoFiles(2, (at) => picture(at + 10 * n)))),
      );
      ids.push(id);
    }
    const [mornings = 0, evenings = 0] = ids;
    expect(await readStockAhead(localActor)).toBe(evenings);
    await act(localActor, mornings, { ...wholeStock, act: { do: "tag", tag: "early" } });
    expect(await readStockAhead(localActor)).toBe(mornings);
    expect(await readStockAhead({ id: "stranger", name: "A stranger", roles: new Map() })).toBeNull();
    await changeCollection(localActor, mornings, { archived: true });
    expect(await readStockAhead(localActor)).toBe(evenings);
  });
});
