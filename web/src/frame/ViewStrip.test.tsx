// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { MemoryRouter, useLocation } from "react-router";
import { expect, test } from "vitest";
import { shown } from "../testing/page";
import { serverThat } from "../testing/server";
import { ViewStrip } from "./ViewStrip";

const view = (id: number, letter: string, title: string) => ({
  id,
  letter,
  title,
  name: "",
  view: id === 1 ? "estimate" : `estimate ${letter}`,
  position: id,
  needs: { model: 4 },
});

function Address() {
  return <output aria-label="address">{useLocation().search}</output>;
}

async function strip(search: string, letters = "ABC") {
  let views = [...letters].map((letter, k) => view(k + 1, letter, `of ${letter}`));
  const heard = serverThat({
    "GET /api/studies/s": () => ({
      revision: 3,
      stages: [{ stage: "estimate", title: "Estimate", analyses: views }],
    }),
    "POST /api/studies/s/analyses": () => {
      views = [...views, view(9, "D", "of D")];
      return Response.json({ id: 9 }, { status: 201 });
    },
    "PATCH /api/studies/s/analyses/2": () => new Response(null, { status: 204 }),
    "DELETE /api/studies/s/analyses/2": () => new Response(null, { status: 204 }),
  });
  const found = shown(
    <MemoryRouter initialEntries={[`/studies/s/estimate${search}`]}>
      <ViewStrip study="s" stage="estimate" />
      <Address />
    </MemoryRouter>,
  );
  await screen.findByRole("button", { name: "New view" });
  const changes = () => heard.filter((requested) => requested.method !== "GET");
  const address = () => screen.getByLabelText("address").textContent;
  const more = async (letter: string, act: string) => {
    await found.user.click(
      screen.getByRole("button", { name: new RegExp(`^More for view ${letter}`) }),
    );
    await found.user.click(await screen.findByRole("menuitem", { name: act }));
  };
  return { ...found, changes, address, more };
}

const button = (name: string | RegExp) => screen.getByRole("button", { name });

test("one view has no strip of its own; another begins as its copy and is shown", async () => {
  const { user, changes, address } = await strip("", "A");
  expect(screen.queryByRole("listitem")).toBeNull();
  await user.click(button("New view"));
  await waitFor(() => expect(address()).toBe("?view=D"));
  expect(changes()[0]?.body).toEqual({ stage: "estimate", name: "", copy_of: 1 });
});

test("views are set beside the one that is shown, and taken away again", async () => {
  const { user, address } = await strip("?view=B");
  expect(button("B of B").getAttribute("aria-current")).toBe("true");
  await user.click(button("Beside: C of C"));
  expect(decodeURIComponent(address() ?? "")).toBe("?view=B&beside=B,C");
  await user.click(button("Beside: A of A"));
  expect(decodeURIComponent(address() ?? "")).toBe("?view=B&beside=B,C,A");
  await user.click(button("C of C"));
  expect(decodeURIComponent(address() ?? "")).toBe("?view=C&beside=A,B,C");
  await user.click(button("Beside: A of A"));
  await user.click(button("Beside: B of B"));
  expect(address()).toBe("?view=C");
});

test("a view is renamed with what it follows from, and deleted once its page has gone", async () => {
  const { user, changes, address, more } = await strip("?view=B");
  await more("B", "Rename");
  await user.type(await screen.findByRole("textbox"), "By vessels");
  await user.click(button("Rename"));
  await waitFor(() => expect(changes().length).toBe(1));
  expect(changes()[0]?.body).toEqual({ name: "By vessels", position: 2, needs: { model: 4 } });
  await more("B", "Delete");
  await waitFor(() => expect(changes().at(-1)?.method).toBe("DELETE"));
  expect(address()).toBe("");
});

test("the first view, which other stages follow from, is not deleted", async () => {
  const { user } = await strip("");
  await user.click(button(/^More for view A/));
  await screen.findByRole("menuitem", { name: "Duplicate" });
  expect(screen.queryByRole("menuitem", { name: "Delete" })).toBeNull();
});
