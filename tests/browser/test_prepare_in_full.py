"""Prepare as it is worked in: layouts, how a file is read, steps, describe, new data extracts."""

from pathlib import Path

import pytest

IMPORTS = Path(__file__).parents[2] / "demo" / "imports"


def begin(page, name, file=None):
    """A study of its own, with one of the demo imports."""
    page.goto(page.address)
    page.get_by_label("Name of the study").fill(name)
    page.button("Begin").click()
    page.get_by_text("Give the study its file").wait_for()
    if file is not None:
        send(page, file, (IMPORTS / file).read_bytes())
        page.get_by_text(file).first.wait_for()


def send(page, name, data):
    payload = {"name": name, "mimeType": "application/octet-stream", "buffer": data}
    page.locator("input[type=file]:not([accept^='.json'])").first.set_input_files(payload)


def pick(page, label, words):
    """Choose in a field with search, by keyboard."""
    field = page.get_by_label(label, exact=True).last
    field.fill(words)
    page.get_by_role("option", name=words, exact=True).wait_for()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")


def test_a_log_of_dated_records_becomes_a_described_cohort(page):
    begin(page, "Ward", "ward_log.csv")
    layouts = page.get_by_role("region", name="Layout of the table")
    assert "patient has 3.5 rows on average" in layouts.inner_text()
    assert page.axe() == []
    page.button("Apply: dated records").click()
    page.get_by_role("dialog").get_by_label("Reason").fill("as the ward reported")
    page.button("Confirm").click()
    layouts.wait_for(state="detached")
    assert page.slot("event").inner_text() == "first died and first relapse"
    page.stage_line("Prepare").get_by_text("60 of 60 rows kept").wait_for()
    page.button("Describe").click()
    page.get_by_role("table", name="Baseline table").wait_for()
    page.get_by_label("Described by").click()
    page.get_by_role("option", name="sex").click()
    page.get_by_role("columnheader", name="standardised difference").wait_for()
    page.locator(".MuiMenu-root").wait_for(state="detached")
    assert page.axe() == []


def test_how_a_file_is_read_is_shown_with_evidence_and_changed_with_a_preview(page):
    begin(page, "Clinic", "clinic_semicolons.csv")
    page.button("read as Windows-1252, semicolon, decimal comma").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("row", name="footer the last line").wait_for()
    dialog.get_by_text("Gewicht number").wait_for()
    assert page.axe() == []
    dialog.get_by_label("Decimal mark").click()
    page.get_by_role("option", name="point").click()
    dialog.get_by_text("Gewicht text").wait_for()
    dialog.get_by_label("Last lines left out").fill("0")
    dialog.get_by_role("button", name="Read it this way").click()
    dialog.wait_for(state="detached")
    page.get_by_text("121 rows").first.wait_for()


def test_dates_that_could_be_either_are_questions(page):
    begin(page, "Doubtful", "doubtful_dates.csv")
    page.button("Read as month first: seen: the day or the month may come first").click()
    page.get_by_role("dialog").get_by_role("button", name="Read as month first").click()
    page.locator(".steps").get_by_text("Read seen as dates, month first").wait_for()
    page.locator(".rows").get_by_text("2019-02-06").first.wait_for()


def test_meanings_are_proposed_and_filled_in_only_on_request(page):
    begin(page, "Beds", "beds_with_bars.txt")
    page.slot("outcome").click()
    page.get_by_role("menuitem", name="how it ended").click()
    page.slot("outcome").get_by_text("how it ended").wait_for()
    page.slot("meanings").click()
    page.get_by_text("also written").first.wait_for()
    page.get_by_text("Probably").wait_for()
    assert "have no meaning yet" in page.slot("meanings").inner_text()
    page.button("Fill these in").click()
    page.get_by_text("would have the event").wait_for()
    page.button("Set meanings").click()
    page.stage_line("Prepare").get_by_text("152 of 152 rows kept").wait_for()


def open_step(page, kind):
    page.button("Add step").click()
    page.get_by_role("menuitem", name=kind).click()


def test_a_step_is_written_tried_taken_edited_undone_and_removed_by_keyboard(page):
    page.goto(page.address)
    page.button("Larkmoor corneal grafts", exact=True).click()
    page.locator(".steps").get_by_text("Set aside: entered twice").wait_for()
    page.button("Add step").focus()
    page.keyboard.press("Enter")
    page.get_by_role("menuitem", name="Split a number").focus()
    page.keyboard.press("Enter")
    pick(page, "Column of numbers", "age")
    page.get_by_label("Points, such as 45, 65").fill("45, 65")
    bands = page.table("Levels of age, split")
    assert [row[0] for row in bands] == ["under 45", "45 to under 65", "65 and over"]
    assert sum(int(row[1]) for row in bands) == 600
    assert page.axe() == []
    page.get_by_role("dialog").get_by_label("Reason").fill("as in the protocol")
    page.keyboard.press("Tab")
    page.get_by_role("dialog").get_by_role("button", name="Add step").focus()
    page.keyboard.press("Enter")
    name = page.locator(".steps").get_by_role("button", name="Split age at 45, 65")
    name.wait_for()
    page.locator(".rows").get_by_text("age, split").wait_for()
    name.press("Enter")
    page.button("Edit 7 Split age").or_(page.button("Edit Split age at 45, 65")).click()
    page.get_by_label("Points, such as 45, 65").fill("50")
    page.button("Change step").click()
    page.locator(".steps").get_by_text("Split age at 50").wait_for()
    page.button("Undo").click()
    page.locator(".steps").get_by_text("Split age at 45, 65").wait_for()
    page.button("Redo").click()
    page.locator(".steps").get_by_text("Split age at 50").click()
    page.get_by_role("switch", name="On: Split age at 50").click()
    page.locator(".steps .off").get_by_text("Split age at 50").wait_for()
    page.button("Remove Split age at 50").click()
    page.locator(".steps").get_by_text("Split age at 50").wait_for(state="detached")


def test_a_formula_is_pointed_at_where_it_is_wrong(page):
    page.open("Harbour lamps", "prepare")
    open_step(page, "A new column by a formula")
    page.get_by_label("Name of the new column").fill("long")
    formula = page.get_by_label("Formula", exact=True)
    formula.fill("if hours > 500 than 1 else 0")
    page.get_by_text("“then” is expected here").wait_for()
    assert page.locator(".formula-place mark").inner_text() == "t"
    assert page.get_by_role("dialog").get_by_role("button", name="Add step").is_disabled()
    formula.fill("if hours > 500 then 1 else 0")
    page.get_by_role("status").get_by_text("long =").wait_for()
    page.button("Cancel").click()


def test_a_condition_has_clauses_and_states_what_missing_means(page):
    page.open("Larkmoor corneal grafts", "prepare")
    open_step(page, "Set rows aside, or keep them")
    pick(page, "Column", "donor_cells")
    page.get_by_label("Test", exact=True).click()
    page.get_by_role("option", name="is at least").click()
    page.get_by_label("Value", exact=True).fill("2500")
    page.get_by_text("also where it is missing (17)").wait_for()
    before = page.get_by_role("status").get_by_text("rows set aside").inner_text()
    page.get_by_text("also where it is missing (17)").click()
    page.get_by_role("status").get_by_text("(or is missing)").wait_for()
    after = page.get_by_role("status").get_by_text("rows set aside").inner_text()
    taken = [int(text.split(": ")[1].split(" ")[0]) for text in (before, after)]
    assert taken[1] == taken[0] + 17
    page.button("Add clause").click()
    page.get_by_label("Joined by").wait_for()
    page.button("Cancel").click()


def test_a_new_export_is_compared_before_it_is_accepted_and_the_old_export_stays(page):
    page.goto(page.address)
    page.button("Harbour lamps", exact=True).last.click()
    page.stage_line("Prepare").get_by_text("rows kept").wait_for()
    page.button("new data extract").click()
    lines = (IMPORTS.parent / "harbour_lamps.csv").read_text().splitlines()
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("Choose the new data extract").wait_for()
    send(page, "lamps_in_spring.csv", "\n".join(lines[:-2]).encode())
    dialog.get_by_text("lamps_in_spring.csv waits to be accepted").wait_for()
    rows = page.table("Every stage before and after")
    assert [row[0] for row in rows] == ["Prepare", "Estimate", "Compare", "Model", "Check"]
    assert page.axe() == []
    dialog.get_by_role("button", name="Accept the new data extract").click()
    dialog.wait_for(state="detached")
    page.stage_line("Prepare").get_by_text("22 of 22 rows kept").wait_for()
    page.button("new data extract").click()
    page.locator(".extracts li", has_text="harbour_lamps.csv").get_by_role("button").click()
    page.locator(".extracts li", has_text="lamps_in_spring.csv").get_by_role("button").wait_for()
    page.button("Close").click()
    page.get_by_text("harbour_lamps.csv").first.wait_for()


def test_a_row_shows_how_its_time_and_end_arose(page):
    page.open("Larkmoor corneal grafts", "prepare")
    page.button("Row 2: 4.0082, the event").click()
    worked = page.get_by_role("region", name="Workings of row 2")
    worked.get_by_text("end − start = 122 days, / 30.4375").wait_for()
    worked.get_by_text("R is the event").wait_for()
    assert page.axe() == []
    page.keyboard.press("Escape")
    worked.wait_for(state="detached")


def test_a_wrong_file_is_replaced_while_nothing_depends_on_it(page):
    begin(page, "Wrong file", "ward_log.csv")
    page.button("another file").click()
    page.get_by_text("Another file in place of ward_log.csv").wait_for()
    send(page, "right.csv", b"id,weeks,died\na,5,1\nb,6,0\nc,9,1\n")
    page.locator(".context", has_text="right.csv").wait_for()
    assert page.slot("duration").inner_text() == "weeks"
    page.slot("unit").click()
    page.get_by_role("menuitem", name="days").click()
    page.locator(".slot", has_text="days").wait_for()
    page.button("another file").wait_for(state="detached")  # the unit was set for this file


def test_pasted_rows_are_read(page):
    begin(page, "Pasted")
    text = "id\tmonths\tevent\n" + "".join(f"p{k}\t{k + 1}\t{k % 2}\n" for k in range(12))
    page.get_by_label("Or paste rows").fill(text)
    page.button("Read what was pasted").click()
    page.get_by_text("12 rows").first.wait_for()
    assert page.slot("duration").inner_text() == "months"


@pytest.mark.parametrize("width", [1024, 1600])
def test_describe_and_the_step_editor_fit(page, width):
    page.set_viewport_size({"width": width, "height": 800})
    page.open("Larkmoor corneal grafts", "prepare")
    page.button("Describe").click()
    page.get_by_role("region", name="Distributions").wait_for()
    wide = "document.documentElement.scrollWidth - innerWidth"
    assert page.evaluate(wide) <= 0
    open_step(page, "Rename and merge levels")
    pick(page, "Column of text", "vessels")
    page.get_by_label("New name of none").fill("no vessels")
    page.get_by_role("status").get_by_text("“none” → “no vessels”").wait_for()
    assert page.evaluate(wide) <= 0
