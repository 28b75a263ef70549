"""From two files to a report: follow-up, visits with a stray row, a time-varying covariate in a model."""

import re

import httpx

from browser.test_files import begin, choose
from browser.test_model_loop import settled

GRAFTS = "graft,weeks,ended\n" + "".join(f"g{k},{4 + 7 * k % 29},{k % 2}\n" for k in range(40))
VISITS = "graft,week,height\n" + "".join(
    f"g{k},{u},{50 + (11 * k + 13 * u) % 40}\n" for k in range(40) for u in (0, 3)
)


def test_visits_become_a_time_varying_covariate_of_the_model_and_the_report(page):
    begin(page, "Grafts with visits")
    choose(page, "grafts.csv", GRAFTS.encode())
    page.get_by_text("40 rows").first.wait_for()
    there = f"{page.address}/api/studies/{page.study('Grafts with visits')}"
    reply = httpx.get(f"{there}/prepare", timeout=60)
    stated = reply.json()["follow_up"] | {
        "clock": {"kind": "duration", "column": "weeks"},
        "unit": "weeks",
        "outcome": "ended",
        "subject": "graft",
        "meanings": {"1": {"meaning": "event"}, "0": {"meaning": "censored"}},
    }
    seen = httpx.get(there, timeout=60).headers["etag"]
    httpx.put(f"{there}/follow-up", json=stated, headers={"If-Match": seen}).raise_for_status()
    page.reload()

    page.button("add a table").click()
    dialog = page.get_by_role("dialog", name="Further tables")
    dialog.get_by_label("Name of the table").fill("visits")
    dialog.locator("input[type=file]").set_input_files(
        {"name": "visits.csv", "mimeType": "text/csv", "buffer": f"{VISITS}x9,1,60\n".encode()}
    )
    dialog.get_by_text("1 row of visits whose graft no subject has (row 81).").wait_for()
    assert page.axe() == []
    dialog.get_by_role("button", name="Set this row aside").click()
    table = dialog.get_by_role("table", name="What became of the rows of each table")
    table.get_by_text("80").wait_for()
    dialog.get_by_role("button", name="Add a covariate").click()
    assert page.axe() == []
    dialog.get_by_label("Column", exact=True).click()
    page.get_by_role("option", name="height").click()
    dialog.get_by_role("button", name="Add height now").click()
    made = dialog.get_by_role("list", name="Made of visits")
    made.get_by_text("value in force of height").wait_for()
    dialog.get_by_role("button", name="Close").click()
    page.button("with visits, in 80 rows").wait_for()

    page.stage("Model")
    page.slot("add-term").click()
    page.get_by_role("menuitem", name=re.compile("^height now")).click()
    page.locator(".category-figure").get_by_text("height now").first.wait_for()
    page.get_by_text("Following 40 subjects in 80 rows").wait_for()
    settled(page)
    page.stage("Report")
    methods = page.locator("#piece-methods")
    methods.get_by_text("height now (value in force of height)").first.wait_for()
