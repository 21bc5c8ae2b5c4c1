// @vitest-environment jsdom
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useDetailed, useScrollSpeed } from "./scroll-speed";

function Cell() {
  return <span>{useDetailed() ? "whole" : "plain"}</span>;
}
function Ground({ cells }: { cells: number }) {
  useScrollSpeed();
  return Array.from({ length: cells }, (_, n) => <Cell key={n} />);
}

const counts = () => [screen.queryAllByText("whole").length, screen.queryAllByText("plain").length];
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
    expect(counts()).toEqual([3, 0]);
    for (const top of [20, 40, 60]) {
      await pass(16);
      scrollTo(top);
    }
    rerender(<Ground cells={5} />);
    expect(counts()).toEqual([5, 0]);
  });

  it("that come into view while it goes by fast are plain, and get their details once it stands still", async () => {
    const { rerender } = render(<Ground cells={2} />);
    await pass(16);
    scrollTo(900);
    rerender(<Ground cells={40} />);
    // What was there keeps its details.
    expect(counts()).toEqual([2, 38]);
    await pass(100);
    scrollTo(1800);
    await pass(100);
    expect(counts()).toEqual([2, 38]);
    // A few at a time: no single frame is held up by all of them.
    await pass(25);
    expect(counts()[0]).toBeGreaterThan(2);
    expect(counts()[0]).toBeLessThan(40);
    await pass(200);
    expect(counts()).toEqual([40, 0]);
  });
});
