"""The whole tour with the keyboard alone, in a sensible number of strokes; focus is never lost."""

import pytest

RECEIVED = "Larkmoor corneal grafts, as received"
MEANINGS = {"A": "c", "D": "c", "L": "c", "R": "t"}
"""Letters that choose among the event, censored, competing and set aside; D is the second "c"."""


def focused(page):
    """The label of what has the focus."""
    return page.evaluate(
        "() => { const at = document.activeElement;"
        " return at === document.body ? '' : at.getAttribute('aria-label') || at.innerText; }"
    )


def tabs_until(page, label, most):
    """Press Tab until something has the focus; gives how often."""
    for n in range(1, most + 1):
        page.keyboard.press("Tab")
        if label in focused(page):
            return n
    raise AssertionError(f"{label} is not among the next {most} stops")


def find(page, words):
    page.keyboard.press("/")
    page.get_by_role("combobox").fill(words)
    page.get_by_role("option").first.wait_for()
    page.keyboard.press("Enter")


@pytest.fixture
def received(page):
    page.goto(page.address)
    page.button(RECEIVED, exact=True).focus()
    page.keyboard.press("Enter")
    page.stage_line("Estimate").get_by_text("waits for Prepare").wait_for()
    page.slot("meanings").wait_for()
    return page


def test_the_tour_by_keyboard(received):
    page = received
    # The codes: found by name, each chosen by its letter.
    find(page, "codes of outcome")
    for code, letter in MEANINGS.items():
        field = page.get_by_label(f"What {code} means")
        field.focus()
        page.keyboard.press("Enter")
        page.get_by_role("listbox").wait_for()
        page.keyboard.press(letter)
        if code == "D":
            page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        page.get_by_role("listbox").wait_for(state="detached")
    page.button("Set meanings").focus()
    page.keyboard.press("Enter")
    page.slot("meanings").get_by_text("R is the event").wait_for()
    assert "D is competing" in page.slot("meanings").inner_text()
    assert focused(page), "focus is somewhere"

    # A finding: decided with a reason; the focus stays by the findings though its button is gone.
    button = page.button("Set aside: 6 rows end before they start")
    button.focus()
    page.keyboard.press("Enter")
    page.get_by_label("Reason").fill("nobody knows which date is wrong")
    page.get_by_role("dialog").get_by_role("button", name="Set aside").focus()
    page.keyboard.press("Enter")
    button.wait_for(state="detached")
    page.get_by_text("−6 end before start").wait_for()
    page.wait_for_function("() => document.activeElement !== document.body")
    assert page.evaluate("() => document.activeElement.closest('#readings') !== null")
    for act, title in (
        ("Set aside", "outcome is blank in 3 rows"), ("Keep row 239 only", "2 rows share"),
    ):  # fmt: skip
        page.get_by_role("button", name=f"{act}: {title}").focus()
        page.keyboard.press("Enter")
        page.get_by_role("dialog").get_by_role("button", name=act).focus()
        page.keyboard.press("Enter")
        page.get_by_role("dialog").wait_for(state="detached")
    page.stage_line("Prepare").get_by_text("of 612 rows kept").wait_for()

    # The stages by number; the sand line by arrows.
    page.keyboard.press("2")
    line = page.get_by_role("slider", name="Sand line")
    line.wait_for()
    line.focus()
    before = line.get_attribute("aria-valuenow")
    page.keyboard.press("ArrowRight")
    assert line.get_attribute("aria-valuenow") != before
    page.keyboard.press("3")
    page.get_by_role("table", name="Log-rank test", exact=True).wait_for()
    find(page, "level of intervals")
    page.get_by_role("menuitem", name="90%").wait_for()
    page.get_by_role("menuitem", name="90%").focus()
    page.keyboard.press("Enter")
    page.locator(".slot", has_text="90%").wait_for()
    # The focus is back on the slot, once the editor has gone.
    page.wait_for_function(
        "() => document.activeElement.getAttribute('aria-label')?.startsWith('Level of intervals')"
    )
    page.keyboard.press("6")
    page.locator(".report-piece").first.wait_for()
    find(page, "decisions log")
    page.get_by_role("dialog", name="Decisions log").wait_for()
    page.keyboard.press("Escape")


def test_tabs_are_few_and_arrows_go_among_what_is_alike(page):
    page.open("Larkmoor corneal grafts", "compare")
    page.get_by_role("table", name="Log-rank test", exact=True).wait_for()
    page.locator("body").press("Tab")
    assert focused(page) == "To the sentence"
    page.keyboard.press("Enter")
    assert tabs_until(page, "Compare by: drops", 2) <= 2
    page.keyboard.press("ArrowRight")
    assert focused(page).startswith("Reference group")
    page.keyboard.press("End")
    assert focused(page).startswith("Margin")
    assert tabs_until(page, "Sand line", 6) <= 6
    nav = page.get_by_role("navigation", name="Stages").get_by_role("link")
    assert sum(link.get_attribute("tabindex") == "0" for link in nav.all()) == 1
    nav.nth(2).focus()
    page.keyboard.press("ArrowDown")
    assert "Model" in focused(page)
    page.keyboard.press("Home")
    assert "Prepare" in focused(page)


def test_a_step_and_a_stage_are_found_by_name(page):
    page.open("Larkmoor corneal grafts", "prepare")
    page.locator(".steps").get_by_text("Set aside: entered twice").wait_for()
    page.locator("body").press("/")
    box = page.get_by_role("combobox")
    box.fill("no such thing anywhere")
    page.get_by_text("Nothing is called so.").wait_for()
    box.fill("step compare with")
    page.get_by_role("option", name="drops: compare with standard").wait_for()
    assert page.axe() == []
    page.keyboard.press("Enter")
    page.button("Edit drops: compare with standard").wait_for()
    page.locator("body").press("/")
    page.get_by_role("combobox").fill("stage model")
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="Model", level=1).wait_for(state="attached")
