"""How the views hold up: accessibility, widths, the dark theme, long names, an empty study."""

import gzip

import httpx
import pytest

from hourglass.analysis.registry import STAGES

SPINE = ("prepare", *(stage.name for stage in STAGES), "report")

LONG = "a very long treatment name that goes on and on, with commas, and on " * 2


@pytest.mark.parametrize("stage", SPINE)
def test_every_stage_passes_the_accessibility_checker_and_fits_every_width(page, stage):
    page.open("Larkmoor corneal grafts", stage)
    page.page.wait_for_load_state("networkidle")
    accessible_in_both_themes(page)
    for width in (1024, 1280, 1600):
        page.set_viewport_size({"width": width, "height": 800})
        assert overflowing(page) == [], width
        if stage != "report":
            page.get_by_role("complementary", name="Readings").wait_for()
            assert readings_under_main(page) == (width < 1100), width


def test_lists_dialogs_and_slots_are_accessible_too(page):
    page.goto(page.address)
    page.get_by_role("link", name="Harbour lamps").wait_for()
    accessible_in_both_themes(page)
    page.open("Larkmoor corneal grafts, as received", "prepare")
    for _ in range(2):
        page.slot("meanings").click()
        page.get_by_role("dialog").wait_for()
        assert page.axe() == []
        page.keyboard.press("Escape")
        page.button("Theme").click()


def accessible_in_both_themes(page):
    """The accessibility checker finds nothing in the theme that is shown, nor in the other."""
    assert page.axe("best-practice") == []
    page.button("Theme").click()
    assert page.axe("best-practice") == []


def overflowing(page):
    """Elements that stick out of the page to the right, without a scrolling parent."""
    return page.evaluate(
        """() => [...document.querySelectorAll('body *')].filter(e => {
            const box = e.getBoundingClientRect();
            if (!box.width || box.right <= innerWidth + 1) return false;
            for (let p = e; p; p = p.parentElement)
                if (['auto', 'scroll', 'hidden'].includes(getComputedStyle(p).overflowX)) return false;
            return true;
        }).map(e => e.tagName + '.' + e.className)"""
    )


def readings_under_main(page):
    """Both boxes in one look: the main part may grow between two."""
    return page.evaluate(
        """() => document.querySelector('aside[aria-label="Readings"]').getBoundingClientRect().top
            >= document.querySelector('main').getBoundingClientRect().bottom - 1"""
    )


def follow(page, name, file, text):
    """A new study of 240 rows in which 1 is the event and 0 is censored."""
    page.goto(page.address)
    page.get_by_label("Name of the study").fill(name)
    page.button("Begin").click()
    page.get_by_text("Give the study its file").wait_for()
    payload = {"name": file, "mimeType": "text/csv", "buffer": text.encode()}
    page.locator("input[type=file]").set_input_files(payload)
    page.slot("meanings").click()
    for code, words in (("0", "censored"), ("1", "the event")):
        page.get_by_label(f"What {code} means").click()
        page.get_by_role("option", name=words).first.click()
    page.button("Set meanings").click()
    page.stage_line("Prepare").get_by_text("240 of 240").wait_for()


def test_long_names_and_many_groups_stay_in_their_place(page):
    text = (
        "months,status,the arm of the study that each subject was given at the start\n"
        + "".join(f'{k % 37 + 1},{k % 2},"{k % 6} {LONG}"\n' for k in range(240))
    )
    follow(page, LONG[:190], f"{LONG[:80]}.csv", text)
    for stage in ("Estimate", "Compare", "Model", "Check"):
        page.stage(stage)
        page.page.wait_for_load_state("networkidle")
        assert overflowing(page) == [], stage
        aside = page.get_by_role("complementary", name="Readings")
        assert aside.evaluate("e => e.scrollWidth <= e.clientWidth + 1"), stage


FIELDS = "months,status,crop\n" + "".join(
    f"{k % 37 + 1},{k % 2},Level {'ABC'[k % 3]}: {('open field', 'under glass', 'in a long tunnel')[k % 3]}\n"
    for k in range(240)
)


def test_no_figure_grows_with_itself_at_any_width(page):
    follow(page, "Fields", "fields.csv", FIELDS)
    for stage in ("Prepare", "Estimate", "Compare", "Model", "Check", "Report"):
        page.stage(stage)
        page.page.wait_for_load_state("networkidle")
        for width in (*range(960, 1120, 30), 1200, 1280, 1440, 1700):
            page.set_viewport_size({"width": width, "height": 800})
            height = page.still()
            assert height is not None, f"{stage} at {width}"
            # A narrow page is as high as what it holds, and a report holds much.
            assert height < 3000 or stage == "Report", f"{stage} at {width}"
            assert overflowing(page) == [], f"{stage} at {width}"


LEAVING_IS_HELD = "!dispatchEvent(new Event('beforeunload', { cancelable: true }))"


def test_tracks_are_added_moved_and_remembered(page):
    page.open("Larkmoor corneal grafts", "compare")
    held = []

    def hold(route):
        held.append(route)

    page.route("**/tracks/compare", hold, times=1)
    page.button("Add track").click()
    page.get_by_label("Observed minus expected", exact=True).uncheck()
    page.get_by_label("Each group apart").check()
    page.button("Move Number at risk up").click()
    page.keyboard.press("Escape")
    assert page.evaluate(LEAVING_IS_HELD), "two of three changes still wait for their turn"
    held[0].continue_()
    order = page.locator(".track-title b").all_inner_texts()
    assert order == ["Number at risk", "Free of rejection", "Difference", "Each group apart"]
    page.wait_for_function(f"!({LEAVING_IS_HELD})")
    page.page.wait_for_load_state("networkidle")
    page.reload()
    page.locator(".track-title").first.wait_for()
    assert page.locator(".track-title b").all_inner_texts() == order


def test_a_figure_has_its_table(page):
    page.open("Harbour lamps", "compare")
    page.button("Figure as a table").click()
    table = page.get_by_role("dialog").get_by_role("table")
    table.wait_for()
    rows = [r.locator("th, td").all_inner_texts() for r in table.locator("tbody tr").all()]
    assert [r[0] for r in rows] == ["0", "410", "520", "640", "760", "880", "960", "1040"]
    head = table.locator("thead th").all_inner_texts()
    read = {head[k]: float(text) for k, text in enumerate(rows[4]) if text}
    assert read["Free of failure: Ostrey"] == pytest.approx(4 / 7, rel=1e-15)
    assert read["Number at risk: Vane"] == 10
    choice = page.get_by_role("combobox", name="Table")
    choice.click()
    page.get_by_role("option", name="Free of failure: censored, Vane").click()
    page.get_by_role("columnheader", name="Free of failure").wait_for()
    with page.page.expect_download() as saved:
        page.get_by_role("link", name="Save as CSV").click()
    assert saved.value.path().read_text("utf-8-sig").startswith("hours_of_follow_up,free_of_")


def test_the_first_load_is_light_and_kept_for_good(page):
    page.goto(page.address)
    page.page.wait_for_load_state("networkidle")
    scripts = page.evaluate(
        "performance.getEntriesByType('resource').filter(e => e.name.endsWith('.js')).map(e => e.name)"
    )
    answers = [httpx.get(script, timeout=60) for script in scripts]
    assert sum(len(gzip.compress(a.content)) for a in answers) <= 200_000
    assert {a.headers["cache-control"] for a in answers} == {"public, max-age=31536000, immutable"}
    page.open("Harbour lamps", "estimate")
    later = page.evaluate("performance.getEntriesByType('resource').map(e => e.name)")
    assert any("/AnyStage-" in name for name in later), "a stage comes when it is opened"
    assert not any("/Prepare-" in name for name in later)


def test_a_view_that_fails_leaves_the_page_standing(page):
    broken = {"result": {"sentence": None}, "statement": None, "work": None, "blocked": None}
    page.route("**/api/studies/*/compare", lambda route: route.fulfill(json=broken))
    page.goto(f"{page.address}/studies/{page.study('Harbour lamps')}/compare")
    page.get_by_role("heading", name="This view failed").wait_for()
    page.errors.clear()
    page.stage("Estimate")
    page.get_by_role("slider", name="Sand line").wait_for()


def test_the_theme_is_turned_and_kept(page):
    page.open("Harbour lamps", "estimate")
    page.button("Theme").click()
    dark = "document.documentElement.dataset.theme"
    assert page.evaluate(dark) == "dark"
    page.reload()
    assert page.evaluate(dark) == "dark"
