// @vitest-environment jsdom
import type { ClassRow } from "@larder/server/services/classes";
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { renderWith } from "@/tests/render";
import { Classes } from "./classes";

vi.mock("next/navigation", () => ({ useRouter: () => ({ push: vi.fn() }) }));

const row = (id: number, name: string, objects: number, images: number, more: Partial<ClassRow> = {}): ClassRow => ({
  ...{ id, name, code: name.slice(0, 2).toUpperCase(), colour: id, keypoints: null, pairs: null, attributes: [] },
  ...{ skeleton: null, parent: null, formerly: [], deliveries: 1, examples: [] },
  ...{ images, objects, bySplit: { train: objects, val: 0, test: 0, none: 0 } },
  ...more,
});
const rows = [
  row(1, "tart", 40, 12),
  row(2, "Roll", 600, 152, { attributes: [{ kind: "text", name: "bake", required: false, help: "" }] }),
  row(3, "a class whose name has forty signs in it", 3, 1),
];

function show() {
  const { requests } = renderWith(<Classes collection={7} />, {
    "/api/collections/7/classes": rows,
    "/api/classes/2/name": { act: 5, text: "renamed Roll to bun" },
    "/api/collections/7/acts": { act: 6, images: 12, text: "merged Roll into tart (12 images)", job: null },
  });
  return () => requests.filter(({ method }) => method !== "GET");
}
const names = () => screen.getAllByRole("link").map((link) => link.textContent);

describe("the class table", () => {
  it("stands as listed, by name, or by labels", async () => {
    show();
    await screen.findByText("Roll");
    expect(names()).toEqual(["tart", "Roll", "a class whose name has forty signs in it"]);
    await userEvent.click(screen.getByRole("radio", { name: "by name" }));
    expect(names()).toEqual(["a class whose name has forty signs in it", "Roll", "tart"]);
    await userEvent.click(screen.getByRole("radio", { name: "fewest labels first" }));
    expect(names()?.[0]).toBe("a class whose name has forty signs in it");
  });
  it("marks the classes that have too few images, and says how many are missing", async () => {
    show();
    await screen.findByText("1 class has fewer.");
    expect(screen.getByText("9 missing")).toBeTruthy();
    const floor = screen.getByRole("spinbutton", { name: "Images a class needs at least" });
    fireEvent.change(floor, { target: { value: "100" } });
    await screen.findByText("2 classes have fewer.");
    expect(screen.getByText("88 missing")).toBeTruthy();
  });
  it("renames a class by its menu", async () => {
    const changes = show();
    await userEvent.click(await screen.findByRole("button", { name: "Change Roll" }));
    await userEvent.click(await screen.findByRole("menuitem", { name: "Rename" }));
    const dialog = within(await screen.findByRole("dialog", { name: "Rename Roll" }));
    expect(dialog.getByRole("button", { name: "Rename" })).toHaveProperty("disabled", true);
    await userEvent.clear(dialog.getByLabelText("Name"));
    await userEvent.type(dialog.getByLabelText("Name"), "bun{Enter}");
    await waitFor(() => expect(changes()).toHaveLength(1));
    expect(changes()[0]).toEqual({ method: "PUT", path: "/api/classes/2/name", body: { name: "bun" } });
  });
  it("merges a class once what becomes of it is said", async () => {
    const changes = show();
    await userEvent.click(await screen.findByRole("button", { name: "Change Roll" }));
    await userEvent.click(await screen.findByRole("menuitem", { name: "Merge into another" }));
    const dialog = within(await screen.findByRole("dialog", { name: "Merge Roll" }));
    await userEvent.selectOptions(dialog.getByLabelText("Into"), "tart");
    expect(dialog.getByText(/^600 labels on 152 images become tart/).textContent).toContain(
      "What objects say under bake stays, though tart does not declare it.",
    );
    await userEvent.click(dialog.getByRole("button", { name: "Merge into tart" }));
    await waitFor(() => expect(changes()).toHaveLength(1));
    expect(changes()[0]).toMatchObject({ body: { where: "", act: { do: "merge", from: 2, into: 1 } } });
  });
});
