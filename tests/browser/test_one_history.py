"""One history of a study as people meet it: undoing across stages, and two windows on one study."""

import pytest

from browser.conftest import Page


@pytest.fixture
def study(page):
    """A demo of this test's own."""
    page.goto(page.address)
    page.get_by_role("button", name="Harbour lamps", exact=True).last.click()
    page.stage_line("Prepare").get_by_text("rows kept").wait_for()
    return page.url.split("/studies/")[1].split("/")[0]


@pytest.fixture
def other(browser, address):
    """A window of somebody else."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True)
    context.set_default_timeout(10_000)
    yield Page(context.new_page(), address)
    context.close()


def confidence(page, level):
    page.slot("confidence").click()
    page.get_by_role("menuitem", name=level).click()


def settled(page):
    page.locator("main[data-changing='false']").wait_for()


def test_every_change_is_undone_by_key_wherever_it_was_made(page, study):
    page.stage("Compare")
    page.get_by_role("table", name="Log-rank test", exact=True).wait_for()
    confidence(page, "90%")
    page.locator(".slot", has_text="90%").wait_for()
    page.stage("Estimate")
    page.get_by_role("slider", name="Sand line").wait_for()
    confidence(page, "99%")
    page.locator(".slot", has_text="99%").wait_for()
    page.locator("body").press("Control+z")
    page.get_by_text("Undone in Estimate: Level of intervals: 95% → 99%").wait_for()
    page.locator(".slot", has_text="95%").wait_for()
    page.locator("body").press("Control+z")
    page.get_by_text("Undone in Compare: Level of intervals: as in Estimate → 90%").wait_for()
    page.locator("body").press("Control+Shift+z")
    page.get_by_text("Redone in Compare").wait_for()
    page.button("Decisions log").click()
    log = page.get_by_role("dialog")
    log.locator("li.gone", has_text="95% → 99%").wait_for()
    assert log.locator("li:not(.gone)", has_text="Estimate → 90%").count() == 1
    assert page.axe() == []


def test_a_change_made_in_an_older_window_is_not_taken_unseen(page, other, study):
    page.goto(f"{page.address}/studies/{study}/compare")
    page.get_by_role("table", name="Log-rank test", exact=True).wait_for()
    other.goto(f"{page.address}/studies/{study}/compare")
    other.get_by_role("table", name="Log-rank test", exact=True).wait_for()
    confidence(other, "90%")
    other.locator(".slot", has_text="90%").wait_for()

    page.slot("weight").click()
    page.get_by_role("menuitem", name="early").first.click()
    stated = page.get_by_role("dialog", name="The study was changed meanwhile")
    stated.get_by_text("Level of intervals: as in Estimate → 90%").wait_for()
    page.locator(".slot", has_text="90%").wait_for()
    stated.get_by_role("button", name="Make my change again").click()
    stated.wait_for(state="detached")
    settled(page)
    statement = page.request.get(f"{page.address}/api/studies/{study}/compare").json()["statement"]
    assert statement["confidence"] == 0.9, "what the other window changed stays"
    assert statement["weight"] != "log-rank"

    confidence(other, "99%")
    other.get_by_role("dialog").get_by_role("button", name="Leave my change").click()
    other.get_by_text("nothing was done").wait_for()
    assert "90%" in other.slot("confidence").inner_text()
    refused = [text for text in page.errors if "412" in text]
    assert len(refused) == 1
    page.errors.clear()


def test_what_another_window_decides_about_something_else_is_no_obstacle(page, other, study):
    for window in (page, other):
        window.goto(f"{page.address}/studies/{study}/compare")
        window.get_by_role("table", name="Log-rank test", exact=True).wait_for()
    other.slot("weight").click()
    other.get_by_role("menuitem", name="early").first.click()
    settled(other)
    page.stage("Estimate")
    page.get_by_role("slider", name="Sand line").wait_for()
    confidence(other, "90%")
    settled(other)
    confidence(page, "99%")
    page.locator(".slot", has_text="99%").wait_for()
    settled(page)
    assert page.get_by_role("dialog").count() == 0
    api = f"{page.address}/api/studies/{study}"
    stated = [page.request.get(f"{api}/{s}").json()["statement"] for s in ("compare", "estimate")]
    assert [one["confidence"] for one in stated] == [0.9, 0.99]
    assert stated[0]["weight"] != "log-rank"
