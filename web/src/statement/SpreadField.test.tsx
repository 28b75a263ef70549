// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import type { Slot } from "../api/types";
import { shown } from "../testing/page";
import { SpreadField } from "./SpreadField";

type Spread = NonNullable<Slot["spread"]>;

function spread(at: number[]) {
  const requested = { field: "thresholds", edges: [0, 25, 50, 75, 100], heights: [1, 4, 2, 0], at };
  const [set, tried] = [vi.fn(), vi.fn()];
  const given = { ...requested, decimals: 1 } as unknown as Spread;
  const found = shown(<SpreadField spread={given} onSet={set} onTry={tried} />);
  return { ...found, set, tried };
}

test("a threshold is moved by the keys, kept within what there is, and the others stay", async () => {
  const { user, set } = spread([40, 99.5]);
  screen.getByLabelText("Threshold 1").focus();
  await user.keyboard("{ArrowRight}{PageDown}");
  screen.getByLabelText("Threshold 2").focus();
  await user.keyboard("{ArrowRight}x");
  expect(set.mock.calls).toEqual([[[41, 99.5]], [[30, 99.5]], [[40, 100]]]);
});

test("thresholds stay in order, and two at one place are one", async () => {
  const { user, set } = spread([50, 40]);
  screen.getByLabelText("Threshold 2").focus();
  await user.keyboard("{PageUp}{ArrowLeft}");
  expect(set.mock.calls).toEqual([[[50]], [[39, 50]]]);
});

test("a threshold that is dragged is tried on the way and set where it is let go", () => {
  const { container, set, tried } = spread([40]);
  const svg = container.querySelector("svg") as SVGSVGElement;
  svg.getBoundingClientRect = () => ({ left: 100, width: 200 }) as DOMRect;
  const handle = screen.getByLabelText("Threshold 1");
  handle.setPointerCapture = vi.fn();
  const at = (name: "pointerDown" | "pointerMove" | "pointerUp", clientX: number) => {
    const event = new MouseEvent(name.toLowerCase(), { clientX, bubbles: true });
    fireEvent(handle, event);
  };
  at("pointerDown", 180);
  expect(tried).not.toHaveBeenCalled();
  at("pointerMove", 190);
  at("pointerMove", 190);
  at("pointerMove", 900);
  at("pointerUp", 900);
  expect(tried.mock.calls).toEqual([[[45]], [[100]]]);
  expect(set.mock.calls).toEqual([[[100]]]);
});
