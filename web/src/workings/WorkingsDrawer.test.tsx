// @vitest-environment jsdom
import { screen, waitFor, within } from "@testing-library/react";
import { expect, test } from "vitest";
import { shown } from "../testing/page";
import { type Requested, serverThat } from "../testing/server";
import { WorkingsDrawer } from "./WorkingsDrawer";
import { WorkedNumber, WorkingsProvider } from "./workings";

const RATIO = "/api/studies/s/model/workings/ratio";
const BY_ROW = "/api/studies/s/model/workings/by-row";

const page = (title: string, of: object = {}) => ({
  result: {
    title,
    formula: ["HR = exp(β̂)"],
    note: "",
    head: ["time", "events"],
    rows: [],
    total: 0,
    first: 0,
    marked: null,
    more: [],
    typed: null,
    ...of,
  },
});

function drawer() {
  const typed = {
    label: "Coefficients of x",
    value: "0.4",
    field: "beta",
    opens: { figure: "by-row", about: {} },
  };
  const heard = serverThat({
    [`GET ${RATIO}`]: () =>
      page("Hazard ratio 1.49", { more: [{ label: "ln L by row", opens: typed.opens }] }),
    [`GET ${BY_ROW}`]: ({ path }: Requested) =>
      page(path.includes("beta=0.5") ? "ln L at 0.5" : "ln L at β̂", { typed }),
    [`GET ${RATIO}.csv`]: () => new Response("time\tevents\r\n1\t2\r\n"),
  });
  const found = shown(
    <WorkingsProvider>
      <WorkedNumber stage="model" of={{ figure: "ratio", about: { column: 0 } }}>
        1.49
      </WorkedNumber>
      <WorkingsDrawer study="s" hint="choose a number" />
    </WorkingsProvider>,
  );
  return { ...found, heard, number: screen.getByRole("button", { name: "1.49" }) };
}

const heading = (name: string) => screen.findByRole("heading", { name });

test("a number opens its workings, and gets the focus back when they are closed by a key", async () => {
  const { user, number, heard } = drawer();
  expect(screen.getByText("choose a number")).toBeTruthy();
  await user.click(number);
  await heading("Hazard ratio 1.49");
  expect(heard[0]?.path).toBe(`${RATIO}?column=0&first=0&most=200`);
  expect(document.activeElement).toBe(screen.getByRole("region", { name: "Workings" }));
  await user.keyboard("{Escape}");
  expect(screen.queryByRole("heading")).toBeNull();
  expect(document.activeElement).toBe(number);
});

test("further workings are gone back from, and had at a value that is typed", async () => {
  const { user, number } = drawer();
  await user.click(number);
  await user.click(await screen.findByRole("button", { name: "ln L by row" }));
  await heading("ln L at β̂");
  const box = screen.getByLabelText("Coefficients of x");
  await user.clear(box);
  await user.type(box, "0.5{Enter}");
  await heading("ln L at 0.5");
  await user.click(screen.getByRole("button", { name: "Back" }));
  await heading("Hazard ratio 1.49");
  expect(screen.queryByRole("button", { name: "Back" })).toBeNull();
});

test("terms are sorted by a column, upwards, downwards, and as they were; so is what is saved", async () => {
  const { user, number } = drawer();
  await user.click(number);
  await heading("Hazard ratio 1.49");
  const saved = () => screen.getByRole("link", { name: "Save as CSV" }).getAttribute("href");
  const head = () => within(screen.getByRole("table")).getAllByRole("columnheader")[1];
  const sort = async () => user.click(within(head() as HTMLElement).getByRole("button"));
  await sort();
  expect(head()?.getAttribute("aria-sort")).toBe("ascending");
  expect(saved()).toBe(`${RATIO}.csv?column=0&by=1&descending=false`);
  await sort();
  expect(head()?.getAttribute("aria-sort")).toBe("descending");
  await sort();
  expect(head()?.getAttribute("aria-sort")).toBe("none");
  expect(saved()).toBe(`${RATIO}.csv?column=0`);
});

test("the formula and every term are copied", async () => {
  const { user, number } = drawer();
  await user.click(number);
  await heading("Hazard ratio 1.49");
  await user.click(screen.getByRole("button", { name: "Copy" }));
  await waitFor(async () =>
    expect(await navigator.clipboard.readText()).toBe("HR = exp(β̂)\n\ntime\tevents\n1\t2"),
  );
});
