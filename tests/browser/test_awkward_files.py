"""Files as people send them: coded, compared and set aside in the page, thousands of columns among them."""

import numpy as np

from awkward_exports import EXPORTS
from browser.test_files import begin, choose


def sent(page, name, data):
    begin(page, name)
    choose(page, name, data)
    page.get_by_role("heading", name="Findings to decide").wait_for()


def test_an_outcome_is_coded_at_once_and_duplicates_are_compared(page):
    sent(page, "twice.csv", EXPORTS["entered_twice"](5).data)
    page.button("dead is the event, alive is censored").click()
    page.slot("meanings").get_by_text("dead is the event").wait_for()
    assert page.get_by_role("dialog").count() == 0
    page.get_by_text("Look at each of the 5").click()
    rows = page.get_by_role("table", name="Rows of L004")
    assert rows.get_by_role("columnheader").all_inner_texts()[-2:] == ["row 4", "row 5"]
    assert page.axe() == []
    page.button("Keep row 5 only").first.click()
    page.get_by_label("Reason").fill("the later entry is complete")
    page.get_by_role("dialog").get_by_role("button", name="Keep row 5 only").click()
    page.get_by_text("Look at each of the 4").wait_for()
    page.button("Keep the latest of each by entered on").click()
    page.get_by_role("dialog").get_by_role("button", name="Keep the latest").click()
    page.get_by_text("Look at each").wait_for(state="detached")
    page.get_by_text("60 rows").first.wait_for()


def test_rows_are_ticked_in_the_table_and_set_aside(page):
    sent(page, "crosses.csv", EXPORTS["crosses"](5).data)
    for row in (2, 4):
        page.button(f"Tick row {row}", exact=True).click()
    page.get_by_text("2 rows ticked").wait_for()
    page.button("Set aside …").click()
    page.get_by_label("Reason").fill("lamps of another maker")
    page.get_by_role("dialog").get_by_role("button", name="Set aside").click()
    page.locator(".steps").get_by_text("Set aside: lamps of another maker").wait_for()
    page.get_by_text("58 rows").first.wait_for()
    assert page.get_by_text("ticked").count() == 0


def test_three_thousand_columns_are_drawn_where_they_are_looked_at(page):
    rng = np.random.default_rng(2)
    names = ["days", "status", *(f"gene_{k}" for k in range(2_998))]
    lines = [
        ",".join([str(5 + k), str(k % 2), *(f"{v:.2f}" for v in rng.normal(size=2_998))])
        for k in range(40)
    ]
    sent(page, "wide.csv", "\n".join([",".join(names), *lines]).encode())
    page.button("Tick row 1", exact=True).wait_for()
    heads = page.get_by_role("table", name="Table of rows").get_by_role("columnheader")
    assert heads.count() < 60
    page.locator(".rows .virtual-table").evaluate("(table) => { table.scrollLeft = 1e9; }")
    page.get_by_role("table", name="Table of rows").get_by_text("gene_2997", exact=True).wait_for()
    opened = page.slot("duration").evaluate(
        """async (slot) => {
          const begun = performance.now();
          slot.click();
          await new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
          return performance.now() - begun;
        }"""
    )
    page.get_by_text("more. Type a part of the name").wait_for()
    assert opened < 1_500, "it took 44 seconds with every column in the list"
    page.get_by_label("Search").fill("gene_2990")
    page.get_by_role("menuitem", name="gene_2990").wait_for()
    assert page.get_by_role("menuitem").count() == 1
