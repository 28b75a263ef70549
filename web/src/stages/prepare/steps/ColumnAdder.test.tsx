// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import type { ColumnView } from "../../../api/types";
import { shown } from "../../../testing/page";
import { ColumnAdder } from "./ColumnAdder";

test("a column that was added leaves the field empty for the next", async () => {
  const add = vi.fn();
  const columns = ["arm_a", "arm_b"].map((name) => ({ name }) as ColumnView);
  const { user } = shown(<ColumnAdder label="Add a column" columns={columns} onAdd={add} />);
  const field = screen.getByLabelText("Add a column") as HTMLInputElement;
  for (const name of ["arm_a", "arm_b"]) {
    await user.click(field);
    await user.click(screen.getByRole("option", { name }));
    expect(add).toHaveBeenLastCalledWith(name);
    expect(field.value).toBe("");
  }
});
