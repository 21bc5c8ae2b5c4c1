// @vitest-environment jsdom
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useCellDetail, useScrollSpeed } from "./scroll-speed";

function Cell() {
  return <span>{useCellDetail()}</span>;
}
function Ground({ cells }: { cells: number }) {
  useScrollSpeed();
  return Array.from({ length: cells }, (_, n) => <Cell key={n} />);
}

const counts = () => ["whole", "picture", "ground"].map((detail) => screen.queryAllByText(detail).length);
const scrollTo = (top: number) =>
  act(() => {
    Object.assign(window, { scrollY: top });
    window.dispatchEvent(new Event("scroll"));
  });
const pass = (milliseconds: number) => act(() => vi.advanceTimersByTimeAsync(milliseconds));

beforeEach(() => {
  vi.useFakeTimers({
    toFake: ["setTimeout", "clearTimeout", "requestAnimationFrame", "cancelAnimationFrame", "performance"],
  });
  Object.assign(window, { scrollY: 0 });
});
afterEach(async () => {
  cleanup();
  await pass(1000);
  vi.useRealTimers();
});

describe("cells", () => {
  it("are drawn whole where it stands still, or is scrolled as one reads", async () => {
    const { rerender } = render(<Ground cells={3} />);
    expect(counts()).toEqual([3, 0, 0]);
    for (const top of [14, 28, 42]) {
      await pass(16);
      scrollTo(top);
    }
    rerender(<Ground cells={5} />);
    expect(counts()).toEqual([5, 0, 0]);
  });

  it("that come into view while it goes by fast have their pictures alone, and get their details once it stands still", async () => {
    const { rerender } = render(<Ground cells={2} />);
    await pass(16);
    scrollTo(900);
    rerender(<Ground cells={40} />);
    // What was there keeps its details.
    expect(counts()).toEqual([2, 38, 0]);
    await pass(100);
    scrollTo(1800);
    await pass(100);
    expect(counts()).toEqual([2, 38, 0]);
    // A few at a time: no single frame is held up by all of them.
    await pass(25);
    expect(counts()[0]).toBeGreaterThan(2);
    expect(counts()[0]).toBeLessThan(40);
    await pass(200);
    expect(counts()).toEqual([40, 0, 0]);
  });

  it("that go by in a second have their pictures alone, however long it lasts", async () => {
    const { rerender } = render(<Ground cells={2} />);
    for (let step = 1; step <= 6; step++) {
      await pass(16);
      scrollTo(step * 24);
      rerender(<Ground cells={2 + step} />);
    }
    expect(counts()).toEqual([2, 6, 0]);
  });

  it("that race by are bare ground until it stands still", async () => {
    const { rerender } = render(<Ground cells={2} />);
    let top = 0;
    for (let cells = 3; cells <= 6; cells++) {
      await pass(50);
      scrollTo((top += 600));
      rerender(<Ground cells={cells} />);
    }
    // The first step may have been a key's, and the second alone is no race yet.
    expect(counts()).toEqual([2, 2, 2]);
    await pass(400);
    expect(counts()).toEqual([6, 0, 0]);
  });

  it("that one jump by a key brings into view have their pictures at once", async () => {
    const { rerender } = render(<Ground cells={2} />);
    for (let jump = 1; jump <= 4; jump++) {
      await pass(200);
      scrollTo(jump * 3000);
      rerender(<Ground cells={2 + jump} />);
      expect(counts()[2]).toBe(0);
    }
  });
});
