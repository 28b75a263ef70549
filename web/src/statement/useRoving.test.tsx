// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { expect, test } from "vitest";
import { shown } from "../testing/page";
import { useRoving } from "./useRoving";

function Slots({ names }: { names: string[] }) {
  return (
    <>
      <div {...useRoving<HTMLDivElement>("button")}>
        {names.map((name) => (
          <button type="button" key={name}>
            {name}
          </button>
        ))}
      </div>
      <a href="#after">after</a>
    </>
  );
}

const focused = () => document.activeElement?.textContent;

test("many slots are one stop of the Tab key, and the arrows go round them", async () => {
  const { user, rerender } = shown(<Slots names={["a", "b", "c"]} />);
  await user.tab();
  expect(focused()).toBe("a");
  await user.keyboard("{ArrowLeft}");
  expect(focused()).toBe("c");
  await user.keyboard("{ArrowDown}{ArrowRight}");
  expect(focused()).toBe("b");
  await user.tab();
  expect(focused()).toBe("after");
  await user.tab({ shift: true });
  expect(focused()).toBe("b");
  await user.keyboard("{End}{Home}{Control>}{ArrowRight}{/Control}");
  expect(focused()).toBe("a");
  await user.keyboard("{End}");
  rerender(<Slots names={["a"]} />);
  expect(screen.getByText("a").tabIndex).toBe(0);
});
