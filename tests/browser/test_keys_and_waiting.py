"""By keyboard alone, and while the server is slow or away."""

import json
import re
import threading

from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.stage import stage_of
from hourglass.core.progress import CancelledError


def test_a_slot_is_opened_chosen_and_closed_by_keyboard(page):
    page.open("Larkmoor corneal grafts", "compare")
    page.get_by_role("table", name="Log-rank test", exact=True).wait_for()
    page.slot("reference").focus()
    page.keyboard.press("Enter")
    page.get_by_role("dialog", name="Reference group").wait_for()
    page.keyboard.press("Escape")
    page.get_by_role("dialog").wait_for(state="detached")
    assert page.slot("reference").evaluate("e => e === document.activeElement")
    page.keyboard.press("Enter")
    page.get_by_role("menuitem", name=re.compile("^extended")).focus()
    page.keyboard.press("Enter")
    page.locator("[data-slot=reference]", has_text="extended").wait_for()
    assert page.table("Summary by group")[0][0] == "extended"


def test_times_and_units_are_typed_into_slots(page):
    page.open("Larkmoor corneal grafts", "estimate")
    page.slot("times").click()
    field = page.get_by_label("Times, in months")
    field.fill("6; 18 and 30")
    page.button("Set").click()
    page.get_by_text("Write times of 0 or more").wait_for()
    field.fill("30, 6;18")
    page.keyboard.press("Enter")
    page.locator("[data-slot=times]", has_text="6, 18 and 30").wait_for()
    assert [row[0] for row in page.table("At chosen times")] == ["6", "18", "30"]
    page.stage("Model")
    page.slot("term-2").click()
    page.get_by_label("Another unit").fill("-5")
    page.button("Set").click()
    page.get_by_text("Write a number above 0").wait_for()
    page.get_by_label("Another unit").fill("7,5")
    page.keyboard.press("Enter")
    page.locator(".category-figure").get_by_text("per 7.5").wait_for()


def test_everything_can_be_reached_with_tab(page):
    page.open("Harbour lamps", "compare")
    page.get_by_role("slider", name="Sand line").wait_for()
    reached = set()
    for _ in range(60):
        page.keyboard.press("Tab")
        reached.add(
            page.evaluate(
                "document.activeElement.getAttribute('aria-label') || document.activeElement.innerText"
            )
        )
    for wanted in (
        "To the figure",
        "Compare by: maker",
        "Sand line: time read",
        "Add track",
        "Figure as a table",
        "Time read, in hours",
        "χ² 2.48",
    ):
        assert any(wanted in (one or "") for one in reached), wanted


def test_long_work_shows_its_progress_and_can_be_cancelled(page, runs):
    def endless(cohort, stated, progress):
        while True:
            progress("counting grains", 0.37)

    runs("check", endless)
    page.open("Harbour lamps", "check")
    page.get_by_text("Counting grains … 37%").wait_for()
    assert page.get_by_role("progressbar").get_attribute("aria-valuenow") == "37"
    runs("check", lambda *_: (_ for _ in ()).throw(CancelledError()))
    page.button("Cancel").click()
    page.get_by_text("The work was cancelled").wait_for()
    page.errors[:] = [e for e in page.errors if "409" not in e]


def test_what_was_shown_stays_and_is_held_until_the_next_result_comes(page, runs):
    page.open("Harbour lamps", "estimate")
    page.slot("by").click()
    go = threading.Event()
    compute = stage_of(STAGES, "estimate").numbers.compute
    runs("estimate", lambda *given: go.wait(30) and compute(*given))
    page.get_by_role("menuitem", name="maker").click()
    page.get_by_role("progressbar").wait_for()
    assert page.locator(".track-survival").is_visible(), "what was shown"
    assert page.locator("main").get_attribute("data-changing") == "true"
    assert page.slot("by").get_attribute("aria-disabled") == "true"
    page.slot("by").click(force=True)
    assert page.get_by_role("menuitem").count() == 0
    go.set()
    page.locator("main[data-changing='false']").wait_for()
    assert page.locator(".track-survival .end-label").count() == 2
    assert page.get_by_role("progressbar").count() == 0


def test_a_server_that_is_away_is_stated_and_nothing_is_lost(page):
    page.open("Harbour lamps", "estimate")
    page.get_by_role("slider", name="Sand line").wait_for()
    page.route("**/statement", lambda route: route.abort())
    page.slot("confidence").click()
    page.get_by_role("menuitem", name=re.compile("^90%")).click()
    page.get_by_role("alert").get_by_text("What was saved is safe").wait_for()
    assert page.slot("confidence").inner_text() == "95%", (
        "what was not saved is not shown as if it were"
    )
    page.errors[:] = [e for e in page.errors if "ERR_FAILED" not in e]


def test_a_problem_is_shown_in_the_servers_own_words(page):
    problem = {"type": "urn:x", "title": "t", "status": 503, "detail": "The well has run dry."}
    page.open("Harbour lamps", "estimate")
    page.get_by_role("slider", name="Sand line").wait_for()
    page.route(
        "**/statement",
        lambda route: route.fulfill(
            status=503, body=json.dumps(problem), content_type="application/problem+json"
        ),
    )
    page.slot("confidence").click()
    page.get_by_role("menuitem", name=re.compile("^99%")).click()
    page.get_by_role("alert").get_by_text("The well has run dry.").wait_for()
    page.errors[:] = [e for e in page.errors if "503" not in e]


def test_a_fault_of_the_program_leaves_the_page_around_it_standing(page):
    page.open("Larkmoor corneal grafts", "estimate")
    page.get_by_role("slider", name="Sand line").wait_for()
    detail = "This is a fault in Olden Hourglass, not in your data."
    problem = {
        "type": "urn:hourglass:unforeseen", "title": "x", "status": 500, "detail": detail, "place": "",
    }  # fmt: skip
    page.route(
        "**/api/studies/*/compare*",
        lambda route: route.fulfill(
            status=500, content_type="application/problem+json", body=json.dumps(problem)
        ),
    )
    page.stage("Compare")
    page.get_by_text(detail).first.wait_for()
    page.stage("Estimate")
    page.get_by_role("slider", name="Sand line").wait_for()
    page.unroute("**/api/studies/*/compare*")
    page.stage("Compare")
    page.get_by_role("table", name="Log-rank test", exact=True).wait_for()
    page.errors.clear()
