"""The follow-up statement and the plan of steps, in the browser."""

import json

import pytest
from test_prepare_in_full import begin, send

REVERSED = "id,months,event,arm\n" + "".join(
    f"p{k},{k + 1},{int(k >= 30)},{'old' if k % 2 else 'new'}\n" for k in range(60)
)


def prepared(page, name, text):
    """A study with a file of its own, 1 stated to be the event and 0 to be censored."""
    begin(page, name)
    send(page, "own.csv", text.encode())
    page.get_by_text("own.csv").first.wait_for()
    page.slot("meanings").click()
    for code, meaning in (("0", "censored, no event seen"), ("1", "the event")):
        page.get_by_label(f"What {code} means").click()
        page.get_by_role("option", name=meaning, exact=True).click()
    page.button("Set meanings").click()
    page.stage_line("Prepare").get_by_text("rows kept").wait_for()


def test_two_digits_come_with_a_picture_of_both_readings_and_none_is_proposed(page):
    begin(page, "Digits")
    send(page, "own.csv", REVERSED.encode())
    finding = page.locator("article.finding", has_text="event is 0 or 1: which is the event?")
    finding.wait_for()
    pictures = finding.get_by_role("img")
    text = [pictures.nth(k).get_attribute("aria-label") for k in range(pictures.count())]
    assert text == ["0 is the event: the curve ends at 50%", "1 is the event: the curve ends at 0%"]
    page.slot("meanings").click()
    page.get_by_label("What 1 means").wait_for()
    assert page.get_by_text("Probably").count() == 0
    assert page.axe() == []


def test_codes_that_look_reversed_state_so_with_the_chance_of_it(page):
    prepared(page, "Reversed", REVERSED)
    finding = page.locator("article.finding", has_text="may be the wrong way round")
    finding.wait_for()
    assert "by chance it would be 50%" in finding.inner_text()
    assert finding.get_by_role("img").count() == 2


@pytest.mark.parametrize(
    ("slot", "typed", "shown"),
    [
        ("landmark", "12", "48 analysed"),
        ("longest", "24", "36 followed less long than they could be"),
        ("zero_moved_to", "0,5", "60 analysed"),
    ],
)
def test_optional_parts_are_added_by_keyboard_and_seen_at_once(page, slot, typed, shown):
    prepared(page, f"With {slot}", REVERSED)
    page.slot(slot).focus()
    page.keyboard.press("Enter")
    field = page.get_by_role("dialog").get_by_role("textbox")
    field.fill("soon")
    page.keyboard.press("Enter")
    page.get_by_text("Write a number above 0.").wait_for()
    field.fill(typed)
    page.keyboard.press("Enter")
    page.get_by_role("complementary", name="Readings").get_by_text(shown).wait_for()
    page.stage("Estimate")
    if slot == "landmark":
        page.get_by_text("Time 0 is 12 months after the start").wait_for()
        page.get_by_text("Months since the landmark at 12 months").first.wait_for()
    page.stage("Prepare")
    page.slot(slot).click()
    page.get_by_role("menuitem", name="No ").click()
    page.slot(slot).get_by_text("Add ").wait_for()


def test_everyone_had_the_event_must_be_stated_in_words_and_comes_with_a_caution(page):
    prepared(page, "Everyone", REVERSED)
    page.slot("outcome").click()
    page.get_by_role("menuitem", name="all had the event").click()
    page.slot("outcome").get_by_text("had the event").wait_for()
    page.stage("Estimate")
    page.get_by_text("That was stated, not read from the data.").wait_for()


def test_a_closing_date_is_typed_as_a_date(page):
    page.open("Larkmoor corneal grafts", "prepare")
    page.slot("closing_date").click()
    page.get_by_role("dialog").get_by_label("Nothing is counted after").fill("2021-06-30")
    page.get_by_role("dialog").get_by_role("button", name="Set").click()
    page.get_by_text("after the closing date 2021-06-30").first.wait_for()
    page.slot("closing_date").click()
    page.get_by_role("menuitem", name="No closing date").click()
    page.get_by_text("after the closing date 2021-06-30").first.wait_for(state="detached")


def test_steps_are_saved_and_applied_to_another_file(page):
    page.goto(page.address)
    page.wait_for_load_state("networkidle")
    page.button("Harbour lamps", exact=True).last.click()
    page.stage_line("Prepare").get_by_text("rows kept").wait_for()
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save steps").click()
    plan = json.loads(saved.value.path().read_text())
    assert plan["format"] == "olden-hourglass steps"
    plan["steps"].append(
        {
            "step": {"kind": "new_column", "name": "days", "formula": "hours / 24"},
            "reason": "for the talk with the engineers",
        }
    )
    chooser = page.locator("input[accept^='.json']")
    payload = {"mimeType": "application/json", "buffer": json.dumps(plan).encode()}
    chooser.set_input_files({"name": "steps.json", **payload})
    page.locator(".steps").get_by_text("days = hours / 24").wait_for()
    page.locator(".rows thead").get_by_text("days", exact=True).wait_for()
    chooser.set_input_files({"name": "no.json", "mimeType": "text/plain", "buffer": b"{nothing"})
    page.get_by_role("alert").get_by_text("not a document of steps").wait_for()


def test_what_can_be_taken_out_is_one_menu_away(page):
    page.open("Larkmoor corneal grafts", "prepare")
    page.button("Export …").click()
    items = page.get_by_role("menuitem")
    assert items.count() == 9
    for words, name in (
        ("Prepared table, CSV text", "prepared.csv"),
        ("Codebook", "codebook.csv"),
        ("Rows read, set aside and analysed, as a figure", "rows.svg"),
    ):
        with page.expect_download() as saved:
            items.filter(has_text=words.replace(" text", "")).first.click()
        assert saved.value.suggested_filename == f"Larkmoor corneal grafts {name}"
        assert saved.value.path().stat().st_size > 100
        page.button("Export …").click()
