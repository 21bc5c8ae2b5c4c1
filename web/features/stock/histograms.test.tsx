// @vitest-environment jsdom
import type { Dimension } from "@larder/core/selection/dimensions";
import type { Facets } from "@larder/core/snapshot/facets";
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { renderWith } from "@/tests/render";
import { Histograms } from "./histograms";

const facets: Facets = {
  total: 1240,
  matching: 1240,
  matchingObjects: 5000,
  class: [
    { name: "roll", colour: 0, code: "r", count: 1200 },
    { name: "a class whose name has forty signs in it", colour: 1, code: "a", count: 300 },
  ],
  split: { train: 900, val: 200, test: 100, none: 40 },
  state: { labeled: 1240, empty: 0, unlabeled: 0 },
  delivery: [{ id: 7, name: "Monday", count: 1240 }],
  tag: [],
  objects: [0, 40, ...Array<number>(13).fill(0), 1200],
  source: [],
  licence: [
    { key: "CC0", count: 1000 },
    { key: "", count: 240 },
  ],
  camera: [],
  place: [],
  taken: [],
};
const nothing: Record<Dimension, string[]> = {
  class: [],
  split: [],
  state: [],
  delivery: [],
  tag: [],
  objects: [],
  source: [],
  licence: [],
  camera: [],
  place: [],
  taken: [],
};

function show(chosen: Partial<typeof nothing> = {}) {
  const toggle = vi.fn();
  renderWith(<Histograms facets={facets} chosen={{ ...nothing, ...chosen }} toggle={toggle} />);
  return toggle;
}
/** How wide the bar in a button is, in percent of the room it has. */
const widthOf = (button: HTMLElement) => button.querySelector<HTMLElement>("span > span[style]")?.style.width;

describe("the histograms of the stock", () => {
  it("say every count, and draw it against the most of its kind", () => {
    show();
    const classes = within(screen.getByRole("group", { name: /^Class/ }));
    expect(classes.getAllByRole("button").map((button) => [button.textContent, widthOf(button)])).toEqual([
      ["roll1,200", "100%"],
      ["a class whose name has forty signs in it300", "25%"],
    ]);
    expect(classes.getByTitle("a class whose name has forty signs in it")).toBeTruthy();
  });
  it("show only facts that somebody has told, and what is not said by that name", () => {
    show();
    const facts = within(screen.getByTestId("fact-histograms"));
    expect(facts.getAllByRole("group")).toHaveLength(1);
    expect(facts.getAllByRole("button").map((button) => button.textContent)).toEqual(["CC01,000", "not said240"]);
  });
  it("are filters: a press tells which, also for the last bar of objects and by the keyboard", async () => {
    const toggle = show();
    await userEvent.click(screen.getByRole("button", { name: /^roll/ }));
    await userEvent.click(screen.getByRole("button", { name: "15 or more objects: 1200 images" }));
    screen.getByRole("button", { name: /^Monday/ }).focus();
    await userEvent.keyboard("{Enter}");
    expect(toggle.mock.calls).toEqual([
      ["class", "roll"],
      ["objects", "15"],
      ["delivery", "Monday"],
    ]);
  });
  it("say which bars are chosen", () => {
    show({ class: ["roll"], objects: ["1"] });
    const pressed = screen.getAllByRole("button", { pressed: true }).map((button) => button.textContent);
    expect(pressed).toEqual(["roll1,200", ""]);
    expect(screen.getByRole("button", { name: "1 objects: 40 images" }).getAttribute("aria-pressed")).toBe("true");
  });
});
