// @vitest-environment jsdom
import { act } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { shown } from "../testing/page";
import { sandTimeNow, setHoveredTime, setSandTime, useReadTime } from "./sandTime";

function Time({ study, end, start = null }: { study: string; end: number; start?: number | null }) {
  return <output>{useReadTime(study, end, start)}</output>;
}

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

test("the time is where follow-up puts it until it is moved, and never past the end", () => {
  const { container, rerender } = shown(<Time study="a" end={60} />);
  const read = () => Number(container.textContent);
  expect(read()).toBe(30);
  rerender(<Time study="a" end={60} start={12} />);
  expect(read()).toBe(12);
  act(() => setSandTime("a", 48));
  expect(read()).toBe(48);
  rerender(<Time study="a" end={40} />);
  expect(read()).toBe(40);
  expect(sandTimeNow("a", 100, null)).toBe(48);
  expect(sandTimeNow("another", 100, null)).toBe(50);
});

test("while the pointer is over a figure its time is read instead", () => {
  const { container } = shown(<Time study="b" end={60} />);
  act(() => setHoveredTime("b", 7));
  expect(container.textContent).toBe("7");
  act(() => setHoveredTime("b", null));
  expect(container.textContent).toBe("30");
});

test("where it was left is kept once it rests, and read again by another page", () => {
  for (const t of [1, 2, 3]) setSandTime("c", t);
  expect(localStorage.getItem("hourglass.sand.c")).toBeNull();
  vi.advanceTimersByTime(200);
  expect(localStorage.getItem("hourglass.sand.c")).toBe("3");
  localStorage.setItem("hourglass.sand.d", "9");
  localStorage.setItem("hourglass.sand.e", "not a time");
  expect(sandTimeNow("d", 60, null)).toBe(9);
  expect(sandTimeNow("e", 60, null)).toBe(30);
});
