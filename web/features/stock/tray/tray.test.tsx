// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { renderWith } from "@/tests/render";
import { Tray } from "./tray";

const push = vi.fn();
vi.mock("next/navigation", () => ({ useRouter: () => ({ push }) }));

const selection = { where: "has roll", only: null, except: [5] };
const done = { act: 3, images: 2, text: "moved 2 images to val", job: null };
const shelves = [
  { id: 1, name: "Here" },
  { id: 2, name: "There" },
];

function show(size: number, matching: number) {
  const [onAll, onClear] = [vi.fn(), vi.fn()];
  const { requests } = renderWith(
    <Tray {...{ collection: 1, selection, size, matching, onAll, onClear, onLookAlikes: null, formats: ["coco"] }} />,
    {
      "/api/collections": shelves,
      "/api/collections/1/acts": done,
      "/api/collections/2/deliveries": { id: 9 },
    },
  );
  return { onAll, onClear, changes: () => requests.filter(({ method }) => method !== "GET") };
}

describe("the tray", () => {
  it("says how many are selected, and offers the rest only where there is more", async () => {
    const { onAll, onClear } = show(1, 40);
    expect(screen.getByText("1 image")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "to all 40" }));
    await userEvent.click(screen.getByRole("button", { name: "Esc" }));
    expect([onAll.mock.calls.length, onClear.mock.calls.length]).toEqual([1, 1]);
  });
  it("does not offer more where all are selected", () => {
    show(40, 40);
    expect(screen.queryByRole("button", { name: /to all/ })).toBeNull();
  });
  it("sends the selection as it stands, never a list of what it holds", async () => {
    const { changes } = show(39, 40);
    await userEvent.click(screen.getByRole("button", { name: "Move to val" }));
    await waitFor(() => expect(changes()).toHaveLength(1));
    expect(changes()[0]).toEqual({
      method: "POST",
      path: "/api/collections/1/acts",
      body: { ...selection, act: { do: "move", split: "val" }, expected: 39 },
    });
  });
  it("tags with the words as typed, without the blanks around them, and not with nothing", async () => {
    const { changes } = show(2, 2);
    await userEvent.click(screen.getByRole("button", { name: "Tag" }));
    expect(screen.getByRole("button", { name: "Tag 2 images" })).toHaveProperty("disabled", true);
    await userEvent.keyboard("  night shift {Enter}");
    await waitFor(() => expect(changes()).toHaveLength(1));
    expect(changes()[0]?.body).toEqual({ ...selection, act: { do: "tag", tag: "night shift" }, expected: 2 });
  });
  it("brings to another collection, not to its own, and goes to the sheet there", async () => {
    const { changes } = show(2, 2);
    await userEvent.click(await screen.findByRole("button", { name: "Bring to a collection" }));
    expect((await screen.findAllByRole("menuitem")).map((item) => item.textContent)).toEqual([
      "Copy to There",
      "Move to There",
    ]);
    await userEvent.click(screen.getByRole("menuitem", { name: "Copy to There" }));
    await waitFor(() => expect(push).toHaveBeenCalledWith("/c/2/deliveries/9"));
    expect(changes()[0]?.body).toEqual({ kind: "collection", collection: 1, selection, labels: true, move: false });
  });
});
