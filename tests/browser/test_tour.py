"""The tour of the README, in the browser: from the file as received to the saved report."""

import csv
import io
import re

import pytest

RECEIVED = "Larkmoor corneal grafts, as received"
MEANINGS = {"A": "censored", "L": "censored", "R": "the event", "D": "a competing event"}


def give_meanings(page, meanings):
    page.slot("meanings").click()
    for code, words in meanings.items():
        page.get_by_label(f"What {code} means").click()
        page.get_by_role("option", name=re.compile(f"^{words}")).click()
    page.button("Set meanings").click()


def decide(page, choice, title, reason):
    page.button(f"{choice}: {title}").click()
    page.get_by_label("Reason").fill(reason)
    page.get_by_role("dialog").get_by_role("button", name=choice).click()
    page.get_by_role("dialog").wait_for(state="detached")


def test_the_whole_tour(page, tmp_path):
    page.open(RECEIVED, "prepare")
    page.stage_line("Estimate").get_by_text("waits for Prepare").wait_for()

    # Nothing is assumed: the codes have no meaning yet, and later stages wait.
    assert "no meaning yet" in page.slot("meanings").inner_text()
    page.stage("Estimate")
    page.get_by_text("This waits for Prepare").wait_for()
    page.button("Open Prepare").or_(page.get_by_role("link", name="Open Prepare")).first.click()
    give_meanings(page, MEANINGS)
    page.get_by_text("A blank is not taken for censored: state what").wait_for()

    # The findings, one by one.
    decide(page, "Set aside", "6 rows end before they start", "nobody knows which date is wrong")
    page.get_by_text("−6 end before start").wait_for()
    decide(page, "Set aside", "outcome is blank in 3 rows", "notes lost")
    page.get_by_text("−3 blank outcome").wait_for()
    decide(page, "Spell one way", "drops spells 2 levels in 8 ways", "")
    page.stage_line("Prepare").get_by_text("603 of 612 rows kept").wait_for()

    # Estimate, and reading it by the keyboard.
    page.stage("Estimate")
    page.get_by_role("slider", name="Sand line").wait_for()
    page.stage_line("Estimate").get_by_text("median").wait_for()

    # Compare by drops.
    page.stage("Compare")
    page.slot("by").click()
    with page.page.expect_response(re.compile("/compare$")):
        page.get_by_role("menuitem", name=re.compile("^drops")).click()
    page.slot("by").get_by_text("drops").wait_for()
    page.locator("main[data-changing='false']").wait_for()
    page.get_by_role("table", name="Log-rank test", exact=True).wait_for()
    page.slot("reference").click()
    page.get_by_role("menuitem", name=re.compile("^standard")).click()
    page.get_by_text("against").first.wait_for()
    page.locator(".slot", has_text="standard").wait_for()
    assert page.table("Summary by group")[0][0] == "standard"

    # Model: a term, and another.
    page.stage("Model")
    page.get_by_text("In words").wait_for()
    page.slot("add-term").click()
    page.get_by_role("menuitem", name=re.compile("^vessels")).click()
    page.locator(".category-figure").get_by_text("3-4 quadrants").wait_for()

    # Check, and a decision with a reason.
    page.stage("Check")
    page.get_by_text("Remedies").wait_for()
    page.button("Keep, with a reason").first.click()
    page.get_by_label("Reason").fill("the average is what the protocol asks for")
    page.get_by_role("dialog").get_by_role("button", name="Keep").click()
    page.get_by_role("dialog").wait_for(state="detached")

    # Report, saved.
    page.stage("Report")
    with page.page.expect_download() as saved:
        page.get_by_role("button", name="HTML").click()
    saved.value.save_as(tmp_path / "report.html")
    text = (tmp_path / "report.html").read_text()
    for words in (
        "notes lost",
        "the average is what the protocol asks for",
        "3-4 quadrants",
        "set aside: end before start",
        "<svg",
    ):
        assert words in text
    with page.page.expect_download() as saved:
        page.get_by_role("link", name="Hazard ratios", exact=True).click()
    saved.value.save_as(tmp_path / "ratios.csv")
    rows = list(csv.DictReader(io.StringIO((tmp_path / "ratios.csv").read_text("utf-8-sig"))))
    assert len(rows) >= 2

    # The log holds it all; withdrawing a decision puts the later stages out of date.
    page.button(re.compile("^Decisions log")).click()
    log = page.get_by_role("dialog")
    log.get_by_role("listitem").nth(8).wait_for()
    assert log.get_by_role("listitem").count() == 9, "the reference level is a decision too"
    log.get_by_role("button", name=re.compile("Withdraw: outcome is blank")).click()
    log.get_by_text("undone or withdrawn").wait_for()
    log.get_by_role("button", name="Close").click()
    page.stage_line("Model").get_by_text("waits for Prepare").wait_for()


def test_sand_line_by_keyboard_reads_the_exact_number_followed(page):
    page.open("Harbour lamps", "compare")
    sand = page.get_by_role("slider", name="Sand line")
    sand.wait_for()
    sand.focus()
    page.keyboard.press("Home")
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    assert "760 hours" in sand.get_attribute("aria-valuetext")
    cells = page.table("At this time")
    assert cells[0][:2] == ["Ostrey", "57.1%"]
    assert cells[0][3] == "7"
    assert cells[1][:2] == ["Vane", "82.5%"]
    assert cells[1][3] == "10"
    assert cells[2][1] == "+25.4"
    page.keyboard.press("Shift+ArrowLeft")
    assert "700 hours" in sand.get_attribute("aria-valuetext")
    # Between events too: 700 is the time of a censoring, still at risk at it.
    assert page.table("At this time")[0][3] == "8"
    page.get_by_label("Time read, in hours").fill("701")
    page.keyboard.press("Enter")
    assert page.table("At this time")[0][3] == "7"
    # It follows to another view, and survives a reload.
    page.stage("Estimate")
    page.get_by_role("slider", name="Sand line").wait_for()
    assert page.get_by_label("Time read, in hours").input_value() == "701"
    page.page.wait_for_timeout(300)
    page.reload()
    page.get_by_role("slider", name="Sand line").wait_for()
    assert page.get_by_label("Time read, in hours").input_value() == "701"
    page.get_by_text("fewer than 10 lamps are at risk").first.wait_for()


def test_sand_line_is_dragged(page):
    page.open("Larkmoor corneal grafts", "estimate")
    sand = page.get_by_role("slider", name="Sand line")
    sand.wait_for()
    box = page.locator(".sand-field").bounding_box()
    middle = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + box["width"] * 0.25, middle)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.5, middle, steps=5)
    page.mouse.up()
    end = float(sand.get_attribute("aria-valuemax"))
    assert float(sand.get_attribute("aria-valuenow")) == pytest.approx(end / 2, rel=0.01)


def test_workings_open_from_every_underlined_number_and_give_the_focus_back(page):
    page.open("Harbour lamps", "compare")
    figure = page.button("χ² 2.48")
    figure.click()
    drawer = page.get_by_role("region", name="Workings")
    drawer.get_by_text("χ² = (O − E)² / V").wait_for()
    assert drawer.locator("tbody tr").count() == 7
    page.keyboard.press("Escape")
    drawer.wait_for(state="detached")
    assert figure.evaluate("e => e === document.activeElement")
    page.button("880", exact=True).click()
    drawer.get_by_text("S first reaches 0.5 or less at 880").wait_for()
    page.stage("Model")
    page.locator(".category-figure .worked").first.click()
    drawer.get_by_text("= exp(β̂) = exp(").wait_for()
    with page.page.expect_download() as saved:
        drawer.get_by_role("link", name="Save as CSV").click()
    assert saved.value.suggested_filename == (
        "Harbour lamps Model Hazard ratio of Vane against Ostrey.csv"
    )


def test_changing_a_slot_recomputes_and_marks_the_later_stages(page):
    page.open("Larkmoor corneal grafts", "check")
    page.get_by_role("table", name="Test of proportional hazards").wait_for()
    page.stage("Model")
    page.slot("term-1").click()
    page.get_by_role("menuitem", name=re.compile("^Take vessels out")).click()
    page.locator(".category-figure").get_by_text("3-4 quadrants").wait_for(state="detached")
    page.stage_line("Model").get_by_text("3 terms").wait_for()
    page.stage_line("Check").get_by_text("out of date").first.wait_for()
    page.stage("Check")
    page.stage_line("Check").get_by_text(re.compile("in doubt$")).wait_for()


def test_a_caution_is_accepted_with_a_reason_and_shown_in_the_report(page):
    page.open("Larkmoor corneal grafts", "compare")
    page.button("Accept, with a reason: Competing events.").click()
    page.get_by_role("dialog").get_by_label("Reason").fill("deaths were few and not of the eye")
    page.get_by_role("dialog").get_by_role("button", name="Accept").click()
    page.get_by_text("Accepted: deaths were few and not of the eye").wait_for()
    page.reload()
    page.get_by_text("Accepted: deaths were few and not of the eye").wait_for()
    page.stage("Report")
    report = page.locator(".report-page")
    report.get_by_text("deaths were few and not of the eye").wait_for()


def test_back_forward_and_addresses(page):
    page.open("Harbour lamps", "estimate")
    page.stage("Compare")
    assert page.url.endswith("/compare")
    page.go_back()
    page.get_by_role("heading", name="Estimate", level=1).wait_for(state="attached")
    page.go_forward()
    page.get_by_role("heading", name="Compare", level=1).wait_for(state="attached")
    page.keyboard.press("4")
    page.get_by_role("heading", name="Model", level=1).wait_for(state="attached")
    page.keyboard.press("?")
    page.get_by_role("dialog", name="Keys").wait_for()
