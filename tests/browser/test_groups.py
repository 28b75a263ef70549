"""Curves by group and their comparison in the browser, from the sentence to the workings."""

import re

import pytest
from playwright.sync_api import expect

STUDY = "Larkmoor corneal grafts"


def shown(page, table):
    return page.get_by_role("table", name=table, exact=True)


def choose(page, slot, option):
    page.slot(slot).click()
    page.get_by_role("menuitem", name=re.compile(f"^{re.escape(option)}")).click()
    page.locator("main[data-changing='false']").wait_for()


def add(page, title, option):
    page.button(title).click()
    page.get_by_role("menuitem", name=re.compile(f"^{re.escape(option)}")).click()
    page.locator("main[data-changing='false']").wait_for()


def test_curves_by_group_are_chosen_in_the_sentence_and_worked_out(page):
    page.open(STUDY, "estimate")
    choose(page, "by", "vessels")
    quartiles = shown(page, "Quartiles by group")
    quartiles.wait_for()
    assert quartiles.locator("tbody tr").count() == 3
    quartiles.get_by_role("button").first.click()
    page.get_by_text(re.compile("A quarter, none: ")).first.wait_for()
    page.keyboard.press("Escape")
    choose(page, "intervals", "simultaneous bands (Hall")
    page.get_by_text(re.compile("not known with delayed entry")).wait_for()
    add(page, "What ignoring censoring would have given", "beside the right figures")
    shown(page, "What ignoring censoring would have given").wait_for()
    assert page.axe() == []


def test_a_threshold_is_moved_on_its_histogram_by_the_keyboard(page):
    page.open(STUDY, "estimate")
    choose(page, "by", "age")
    page.slot("thresholds").click()
    handle = page.get_by_role("slider", name="Threshold 1")
    before = float(handle.get_attribute("aria-valuenow"))
    handle.focus()
    page.keyboard.press("PageUp")
    page.wait_for_function(
        "before => Number(document.querySelector('.spread-handle').getAttribute('aria-valuenow')) > before",
        arg=before,
    )
    assert page.axe() == []
    page.keyboard.press("Escape")
    after = page.slot("thresholds").inner_text()
    page.get_by_role("row", name=re.compile(f"age > {after}")).first.wait_for()


def test_a_comparison_within_strata_in_pairs_and_each_variable_in_turn(page):
    page.open(STUDY, "compare")
    choose(page, "by", "vessels")
    add(page, "Strata", "centre")
    add(page, "Pairs of groups", "all pairs")
    shown(page, "Pairs of groups").wait_for()
    page.get_by_text("Sums are taken within 5 strata of centre").wait_for()
    shown(page, "The test with other weights").wait_for()
    shown(page, "Ratio of medians").wait_for()
    assert page.axe() == []
    choose(page, "by", "each variable in turn")
    screen = shown(page, "Each variable in turn")
    screen.wait_for()
    assert screen.locator("tbody tr").count() == 8
    page.get_by_text("vessels: p < 0.001 adjusted").wait_for()
    page.button("Compare", exact=True).first.click()
    page.slot("by").get_by_text("vessels").wait_for()


def test_variables_are_chosen_and_split_as_one_states(page):
    page.open(STUDY, "compare")
    choose(page, "by", "each variable in turn")
    shown(page, "Each variable in turn").wait_for()
    choose(page, "variables", "eye")
    page.slot("variables").get_by_text("7 of 8 variables").wait_for()
    split = page.locator("[data-slot^='split-']").first
    split.click()
    page.get_by_label("Threshold of age").fill("60")
    page.page.keyboard.press("Enter")
    expect(split).to_have_text("at 60")
    choose(page, "order", "by name")
    rows = page.table("Each variable in turn")
    assert rows[0][0] == "age\nat 60"
    assert len(rows) == 7
    shown(page, "Each variable in turn").get_by_role("button").first.click()
    page.get_by_text(re.compile("^≤ 60: observed")).first.wait_for()
    page.page.keyboard.press("Escape")
    assert page.axe() == []


@pytest.mark.parametrize("study", ["Harbour lamps"])
def test_a_margin_is_typed_and_shown(page, study):
    page.open(study, "compare")
    shown(page, "Log-rank test").wait_for()
    page.button("Margin: how much worse is still not worse").click()
    page.get_by_label(re.compile("^Percentage points")).fill("20, 800")
    page.button("Set").click()
    page.get_by_role("heading", name="Margin").wait_for()
    page.get_by_text(re.compile("the margin of −20.0")).first.wait_for()


def test_a_group_is_named_hidden_and_given_a_tone_at_the_end_of_its_curve(page):
    page.open("Harbour lamps", "compare")
    labels = page.locator(".track-survival .end-label.choice")
    labels.first.wait_for()
    menu = page.get_by_role("dialog")
    labels.nth(1).focus()
    page.keyboard.press("Enter")
    menu.get_by_role("radio", name="oxblood").click()
    page.locator(".numbers .tone-5").first.wait_for()
    menu.get_by_role("textbox").fill("of the new make")
    page.keyboard.press("Enter")
    menu.get_by_role("heading", name="of the new make").wait_for()
    page.locator("main[data-changing='false']").wait_for()
    assert page.axe() == []
    menu.get_by_role("checkbox", name="Shown").click()
    page.get_by_text("Not shown: of the new make.").wait_for()
    assert labels.count() == 1
    page.open("Harbour lamps", "estimate")
    choose(page, "by", "maker")
    page.button("How of the new make is drawn").wait_for()
    page.open("Harbour lamps", "compare")
    page.button("Show", exact=True).click()
    page.button("How of the new make is drawn").wait_for()


def test_curves_follow_a_threshold_while_it_is_dragged(page):
    page.open(STUDY, "estimate")
    choose(page, "by", "age")
    page.slot("thresholds").click()
    box = page.get_by_role("slider", name="Threshold 1").bounding_box()
    before = page.slot("thresholds").inner_text()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 40, y, steps=5)
    moved = page.locator(".spread-handle text").first.text_content()
    page.locator(".track-survival .end-label", has_text=f"age > {moved}").first.wait_for()
    assert page.slot("thresholds").inner_text() == before
    page.mouse.up()
    expect(page.slot("thresholds")).not_to_have_text(before)


def test_an_axis_from_the_data_states_where_it_begins(page):
    page.open(STUDY, "estimate")
    choose(page, "by", "all grafts")
    choose(page, "intervals", "no intervals")
    numbers = page.locator(".track-at_risk .counts").first.locator("text")
    before = numbers.count()
    page.button("Add track").click()
    page.get_by_role("checkbox", name="Axis from the data").first.click()
    page.locator(".track-survival").get_by_text(re.compile(r"axis from \d+%")).wait_for()
    page.get_by_role("checkbox", name="As proportions").first.click()
    page.locator(".track-survival").get_by_text(re.compile(r"axis from 0\.\d+")).wait_for()
    page.get_by_role("textbox", name="Ticks every").first.fill("48")
    page.keyboard.press("Enter")
    page.wait_for_function(
        "before => document.querySelectorAll('.track-at_risk .counts text').length < before / 2",
        arg=before,
    )
    page.locator("main[data-changing='false']").wait_for()
    assert page.axe() == []


def test_workings_are_sorted_and_a_time_opens_who_stands_behind_it(page):
    page.open("Harbour lamps", "compare")
    page.get_by_role("button", name=re.compile("^χ²")).first.click()
    drawer = page.get_by_role("region", name="Workings")
    drawer.get_by_text(re.compile("^Log-rank: χ²")).wait_for()
    terms = drawer.locator(".virtual-table tbody tr")
    terms.first.locator("td").nth(2).get_by_text(re.compile(r"^\d+$")).wait_for()
    first = terms.first.locator("td").all_inner_texts()
    drawer.get_by_role("button", name="events d").click()
    drawer.get_by_role("button", name="events d ↑").click()
    drawer.locator("th[aria-sort='descending']").wait_for()
    page.wait_for_function(
        "before => Number(document.querySelectorAll('.virtual-table tbody tr td')[2].innerText) > before",
        arg=int(first[2]),
    )
    most = terms.first.locator("td").all_inner_texts()
    terms.first.get_by_role("button").press("Enter")
    drawer.get_by_role(
        "heading", name=re.compile(rf"^At {most[0]} hours: {most[1]} at risk, {most[2]} with")
    ).wait_for()
    terms.first.get_by_text("failure").wait_for()
    text = terms.locator("td:last-child").all_inner_texts()
    assert text[: int(most[2])] == ["failure"] * int(most[2])
    assert page.axe() == []
    drawer.get_by_role("button", name="Back").click()
    drawer.get_by_text(re.compile("^Log-rank: χ²")).wait_for()


def test_the_time_that_is_read_is_chosen_and_a_flat_stretch_states_until_when_it_holds(page):
    page.open("Harbour lamps", "estimate")
    choose(page, "by", "all lamps")
    field = page.get_by_label("Time read, in hours")
    field.fill("700")
    field.press("Enter")
    page.get_by_text("Holds from here: no event until 760.").wait_for()
    page.button("Add to the chosen times").click()
    page.button("Take out of the chosen times").wait_for()
    assert "700" in [row[0] for row in page.table("At chosen times")]
    assert "700" in page.slot("times").inner_text()
    field.fill("1200")
    field.press("Enter")
    page.get_by_text("Holds from here").wait_for(state="detached")
    page.locator("main[data-changing='false']").wait_for()
    assert page.axe() == []
