"""A stage registered here alone is there over HTTP, on the page and in the report."""

import httpx
import pytest

from hourglass.analysis.registry import STAGES
from hourglass.report.pieces.registry import PIECES
from made_up_stage import PIECE, TALLY
from made_up_stage_of_nothing import FADING, FADING_PIECE


@pytest.fixture(scope="module")
def address(serving):
    with serving((*STAGES, TALLY, FADING), (*PIECES, PIECE, FADING_PIECE)) as made:
        yield made


def test_a_made_up_stage_is_there_without_a_line_of_its_own_in_the_client(page):
    study = page.study("Harbour lamps")
    there = f"{page.address}/api/studies/{study}"
    assert "TallyStatement" in httpx.get(f"{page.address}/api/openapi.json", timeout=60).text
    assert httpx.get(f"{there}/tally", timeout=60).json()["result"]["ended"] == 13
    part = httpx.get(f"{there}/tally/parts/slowly", timeout=60).json()["result"]
    assert part["sections"][0]["blocks"][0]["rows"][0][1]["raw"] == 13

    page.open("Harbour lamps", "tally")
    page.stage_line("Tally").get_by_text("13 ended").wait_for()
    page.locator(".track-tally").wait_for()
    assert page.table("Counted slowly") == [["one by one", "13"]]
    page.slot("ends").click()
    page.get_by_role("menuitem", name="all ends").click()
    page.stage_line("Tally").get_by_text("24 ended").wait_for()
    page.get_by_role("table", name="Tally").get_by_text("24", exact=True).wait_for()
    page.button("24", exact=True).click()
    drawer = page.get_by_role("region", name="Workings")
    drawer.get_by_text("Ended: 24").wait_for()
    assert page.axe() == []

    handle = page.get_by_role("slider", name="Counted until")
    handle.focus()
    page.keyboard.press("ArrowLeft")
    page.wait_for_function("() => document.activeElement.getAttribute('aria-valuenow') !== '1000'")
    box, field = handle.bounding_box(), page.locator(".sand-field").bounding_box()
    page.mouse.move(box["x"] + 7, box["y"] + 20)
    page.mouse.down()
    page.mouse.move(field["x"] + field["width"] / 2, box["y"] + 20, steps=3)
    page.mouse.up()
    page.wait_for_load_state("networkidle")
    found = httpx.get(f"{there}/tally", timeout=60).json()
    assert found["result"]["figure"]["high"] == 2400, "past the end of the follow-up"
    assert found["statement"]["until"] == pytest.approx(
        found["result"]["figure"]["high"] / 2, rel=0.02
    )

    page.stage("Report")
    report = page.locator(".report-page")
    report.get_by_role("heading", name="The tally").wait_for()
    report.get_by_text("In the end 24 had ended.", exact=True).wait_for()
    page.slot("pieces").click()
    page.get_by_role("menuitem", name="the tally").click()
    report.get_by_role("heading", name="The tally").wait_for(state="detached")


def test_a_stage_of_no_data_is_shown_in_a_study_without_a_file(page):
    made = httpx.post(f"{page.address}/api/studies", json={"name": "Nothing yet"}, timeout=60)
    there = f"{page.address}/api/studies/{made.json()['id']}"
    page.open("Nothing yet", "fading")
    page.stage_line("Fading").get_by_text("half by 34.7 months").wait_for()
    page.stage_line("Estimate").get_by_text("waits for Prepare").wait_for()
    page.locator(".track-fading").wait_for()
    assert page.table("Left at this time") == [["left", "30.1%"]], "60 months from now"
    assert page.table("Half is left") == [["half is left after", "34.7"]]
    page.slot("rate").click()
    page.get_by_label("Rate a month").fill("0.01")
    page.keyboard.press("Enter")
    page.stage_line("Fading").get_by_text("half by 69.3 months").wait_for()
    page.button("69.3", exact=True).click()
    drawer = page.get_by_role("region", name="Workings")
    drawer.get_by_text("ln 2 / 0.01").wait_for()
    assert page.axe() == []
    assert httpx.get(f"{there}/estimate", timeout=60).json()["blocked"]
    state = {one["stage"]: one["state"] for one in httpx.get(there, timeout=60).json()["stages"]}
    assert (state["fading"], state["estimate"]) == ("current", "blocked")

    page.open("Harbour lamps", "fading")
    page.stage_line("Fading").get_by_text("half by 34.7 months").wait_for()
    page.stage("Report")
    report = page.locator(".report-page")
    report.get_by_text("Half is left after 34.7 months.", exact=True).wait_for()
