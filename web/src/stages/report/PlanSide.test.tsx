// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { expect, test } from "vitest";
import { shown } from "../../testing/page";
import { serverThat } from "../../testing/server";
import { PlanSide } from "./PlanSide";

test("a sealed plan states since when, and how much departs from it", async () => {
  serverThat({
    "GET /api/studies/s/plan-in-place": () => ({
      applied: "",
      sealed_at: "2026-03-04T12:00:00Z",
      sha256: "ab",
      departures: [{ about: "Compare: confidence", planned: "0.95", now: "0.9" }],
      words: "1 thing departs from it.",
    }),
  });
  shown(<PlanSide study="s" />);
  const link = await screen.findByRole("link", { name: "1 thing departs from it." });
  expect(link.closest("p")?.textContent).toContain("Sealed on 2026-03-04.");
  expect(screen.getByRole("link", { name: "Save the sealed plan" }).getAttribute("href")).toBe(
    "/api/studies/s/sealed-plan.json",
  );
});
