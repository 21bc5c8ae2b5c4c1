// @vitest-environment jsdom
import { allChoices, type IntakeChoices } from "@larder/core/intake/choices";
import { proposeMatches } from "@larder/core/relabel/propose";
import type { SheetNumbers } from "@larder/server/services/intake/sheet-numbers";
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { renderWith } from "@/tests/render";
import { ClassMatch } from "./class-match";
import type { DeliveryRow } from "./delivery-row";

const incoming = ["roll", "Rolls", "constructor", "pretzel"];
const known = [
  { name: "roll", colour: 0 },
  { name: "pretzels", colour: 1 },
];
const matches = proposeMatches(
  incoming,
  known.map(({ name }) => name),
).map((match) => ({ ...match, remembered: false }));

function show(classes: IntakeChoices["classes"] = {}, status = "read") {
  const decide = vi.fn();
  const delivery = {
    id: 4,
    collectionId: 1,
    status,
    sheet: { classes: incoming.map((name, n) => ({ name, images: n + 1, objects: 1000 * n })) },
  } as unknown as DeliveryRow;
  renderWith(
    <ClassMatch
      delivery={delivery}
      choices={allChoices({ classes })}
      numbers={{ matches, rememberedFrom: null } as unknown as SheetNumbers}
      decide={decide}
      look={new Map()}
      collectionName="Shelf"
    />,
    { "/api/collections/1/classes": known },
  );
  return decide;
}
const targetOf = (name: string) => screen.getByRole<HTMLSelectElement>("combobox", { name: `${name} becomes` });
const row = (name: string) => within(targetOf(name).closest("tr") as HTMLElement);

describe("the classes of a sheet", () => {
  it("merge nothing by themselves: a look-alike keeps its name and asks", async () => {
    const decide = show();
    await screen.findAllByRole("option", { name: "pretzels" });
    expect(targetOf("pretzel").value).toBe("pretzel");
    await userEvent.click(row("pretzel").getByRole("button", { name: "Merge into pretzels" }));
    await userEvent.click(row("pretzel").getByRole("button", { name: "Keep apart" }));
    expect(decide.mock.calls).toEqual([
      [{ classes: { pretzel: { to: "pretzels" } } }],
      [{ classes: { pretzel: { to: "pretzel" } } }],
    ]);
    expect(row("roll").queryByRole("button")).toBeNull();
  });
  it("go where somebody says, or nowhere, with what was said before kept", async () => {
    const decide = show({ roll: { leaveOut: true } });
    await screen.findAllByRole("option", { name: "pretzels" });
    expect(targetOf("constructor").value).toBe("constructor");
    await userEvent.selectOptions(targetOf("constructor"), "leave out");
    expect(decide).toHaveBeenLastCalledWith({ classes: { roll: { leaveOut: true }, constructor: { leaveOut: true } } });
    expect(row("roll").getByText("left out")).toBeTruthy();
  });
  it("say counts in full, and can no longer be changed once the delivery is taken in", () => {
    show({}, "taken");
    expect(row("pretzel").getByText("3,000")).toBeTruthy();
    for (const name of incoming) expect(targetOf(name).disabled).toBe(true);
    expect(screen.queryByRole("button")).toBeNull();
  });
});
