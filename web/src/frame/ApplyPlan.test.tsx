// @vitest-environment jsdom
import { screen, waitFor, within } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import { shown } from "../testing/page";
import { serverThat } from "../testing/server";
import { ApplyPlan } from "./ApplyPlan";

const FIT = "POST /api/studies/s/plan-fit";
const APPLY = "PUT /api/studies/s/plan-in-place";

/** A file that can be read: the page of the tests has none that can. */
function file(name: string, text: string): File {
  const made = new File([text], name, { type: "application/json" });
  return Object.assign(made, { text: async () => text });
}

async function chosen(text: string, answers: Parameters<typeof serverThat>[0]) {
  const heard = serverThat(answers);
  const close = vi.fn();
  const { user } = shown(<ApplyPlan study="s" onClose={close} />);
  await user.upload(screen.getByLabelText("File of the plan"), file("plan.json", text));
  return { user, heard, close };
}

const apply = () => screen.getByRole<HTMLButtonElement>("button", { name: "Apply" });

test("what does not fit is shown line by line, in the server's words, before a plan is applied", async () => {
  const fit = {
    words: "1 of 2 parts does not fit the file as it is.",
    lines: [
      { part: "Follow-up", states: "Follow rows …", why: "" },
      { part: "Model", states: "By weight", why: "there is no column called “weight”" },
    ],
  };
  const { user, heard, close } = await chosen('{"name": "March"}', {
    [FIT]: () => ({ fit, work: null }),
    [APPLY]: () => Response.json({}, { status: 201 }),
  });
  await screen.findByText(fit.words);
  const rows = within(screen.getByRole("table")).getAllByRole("row").slice(1);
  expect(rows.map((row) => row.lastChild?.textContent)).toEqual([
    "yes",
    "no: there is no column called “weight”",
  ]);
  await user.click(apply());
  await waitFor(() => expect(close).toHaveBeenCalledOnce());
  const put = heard.filter((requested) => requested.method === "PUT");
  expect(put).toMatchObject([{ body: { name: "March" } }]);
});

test("a plan waits for the file of a study without one", async () => {
  await chosen('{"name": "March"}', { [FIT]: () => ({ fit: null, work: null }) });
  await screen.findByText(/The plan waits for it/);
});

test("a file that is no document, and a plan that is refused, are refused with a sentence", async () => {
  const { user } = await chosen("a,b\n1,2\n", {
    [FIT]: () =>
      Response.json({ detail: "The plan was changed after it was sealed." }, { status: 422 }),
  });
  expect((await screen.findByRole("alert")).textContent).toContain("plan.json is no JSON document");
  expect(apply().disabled).toBe(true);
  const sealed = file("sealed.json", '{"sealed": {}}');
  await user.upload(screen.getByLabelText("File of the plan"), sealed);
  await screen.findByText("The plan was changed after it was sealed.");
});
