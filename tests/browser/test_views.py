"""Several views of a stage: begun, named, set beside each other, exported together, deleted."""

import re

import pytest
from playwright.sync_api import expect

STUDY = "Larkmoor corneal grafts"


def settled(page):
    page.locator("main[data-changing='false']").wait_for()


def choose(page, slot, option):
    page.slot(slot).click()
    page.get_by_role("menuitem", name=re.compile(f"^{re.escape(option)}")).click()
    settled(page)


def strip(page):
    return page.get_by_role("navigation", name="Views of this stage")


def readings(page, name):
    return {row[0]: row[1:] for row in page.table(name)}


@pytest.fixture
def views(page):
    """The stage with a second view, of curves by vessels."""
    page.open(STUDY, "estimate")
    strip(page).get_by_role("button", name="New view").click()
    page.wait_for_url(re.compile("view=[B-Z]"))
    choose(page, "by", "vessels")
    strip(page).get_by_text("Curves for each group of vessels").wait_for()
    yield page
    page.open(STUDY, "estimate")
    more = strip(page).get_by_role("button", name=re.compile("^More for view [B-Z]"))
    more.click()
    page.get_by_role("menuitem", name="Delete").click()
    expect(strip(page).get_by_role("listitem")).to_have_count(0)


def test_a_view_states_its_own_sentence_and_the_first_keeps_its_own(views):
    page = views
    assert page.slot("by").inner_text() == "each group of vessels"
    page.page.keyboard.press("[")
    expect(page.slot("by")).to_have_text("all grafts")
    assert "view=" not in page.page.url
    page.page.keyboard.press("/")
    page.get_by_role("combobox").fill("view vessels")
    page.page.keyboard.press("Enter")
    expect(page.slot("by")).to_have_text("each group of vessels")
    page.button(re.compile("^More for view [B-Z]")).click()
    page.get_by_role("menuitem", name="Rename").click()
    page.get_by_role("textbox", name=re.compile("^Name")).fill("By vessels")
    page.button("Rename").click()
    strip(page).get_by_text("By vessels", exact=True).wait_for()
    assert page.axe() == []


def test_views_beside_each_other_share_axes_and_a_table_of_readings(views, tmp_path):
    page = views
    own = page.table("Quartiles by group")
    page.page.keyboard.press("[")
    expect(page.slot("by")).to_have_text("all grafts")
    alone = readings(page, "Quartiles")["median"]
    strip(page).get_by_role("button", name=re.compile("^Beside: [B-Z]")).click()
    columns = page.get_by_role("region", name=re.compile("^View [A-Z] "))
    expect(columns).to_have_count(2)
    columns.nth(1).locator("svg").first.wait_for()
    axes = [c.locator(".time-axis").text_content() for c in columns.all()]
    assert axes[0] == axes[1]
    page.get_by_role("slider").first.wait_for()
    together = readings(page, "Time to rejection, months")
    assert together["median, time"][0] == alone[0]
    group, lower = own[0][0], own[0][1]
    assert any(label.startswith(group) and cells[1] == lower for label, cells in together.items())
    row = page.get_by_role("row", name=re.compile("^none, .*median"))
    row.get_by_role("button").first.click()
    page.get_by_text(re.compile("Median, none: ")).first.wait_for()
    page.page.keyboard.press("Escape")
    assert page.axe() == []
    page.page.keyboard.press("3")
    expect(columns).to_have_count(0)
    page.page.keyboard.press("2")
    expect(columns).to_have_count(2)
    page.button("Export figure").first.click()
    page.get_by_role("img", name=re.compile("^Preview")).wait_for()
    with page.page.expect_download() as saved:
        page.button("Save as SVG").click()
    assert saved.value.suggested_filename.startswith(f"{STUDY}, estimate, estimate ")
    text = saved.value.path().read_text()
    assert {"A Curves for all subjects", "B Curves for each group of vessels"} <= {
        " ".join(words.split()) for words in re.findall(r"<text[^>]*>([^<]*)<", text)
    }
