"""Beginning a study and giving it a file, good or bad, in the browser."""

import json
import re

import pytest

GOOD = "id,months,event,arm\n" + "".join(
    f"p{k},{k * 3 % 17 + 1},{k % 3 // 2},{'old' if k % 2 else 'new'}\n" for k in range(60)
)


def begin(page, name):
    page.goto(page.address)
    page.get_by_label("Name of the study").fill(name)
    page.button("Begin").click()
    page.get_by_text("Give the study its file").wait_for()


def choose(page, name, data):
    payload = {"name": name, "mimeType": "text/csv", "buffer": data}
    page.locator("input[type=file]").set_input_files(payload)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "The file is empty"),
        (b"a,b\n", "no rows under it"),
        (b"\x89PNG\x00\x01\x02\x03", "This is a picture"),
        (b"a,b\n1,2\n3" + b",4" * 60 + b"\n", "Row 2 has 61 cells where the header has 2"),
    ],
)
def test_a_bad_file_is_refused_in_a_sentence_and_another_can_be_chosen(page, data, words):
    begin(page, "With a bad file")
    choose(page, "bad.csv", data)
    page.get_by_role("alert").get_by_text(words).wait_for()
    page.button("Choose a file").wait_for()
    # The server's refusal is an answer, which Chromium reports as a failed resource.
    page.errors[:] = [e for e in page.errors if "422" not in e]


def test_a_file_over_the_limit_is_refused_before_it_is_sent(page):
    page.route(
        "**/api/health",
        lambda route: route.fulfill(
            body=json.dumps(
                {"version": "0", "database": "ready", "database_version": 1, "upload_limit": 1000}
            ),
            content_type="application/json",
        ),
    )
    begin(page, "Too large")
    page.get_by_text("up to 0 MB").wait_for()
    sent = []
    page.on("request", lambda r: sent.append(r.url) if r.method == "PUT" else None)
    choose(page, "large.csv", b"a\n" + b"1\n" * 5000)
    page.get_by_role("alert").get_by_text("at most").wait_for()
    assert sent == []


def test_an_upload_becomes_a_cohort(page):
    begin(page, "Mine")
    choose(page, "mine.csv", GOOD.encode())
    page.get_by_text("60 rows").first.wait_for()
    assert page.slot("duration").inner_text() == "months"
    page.slot("meanings").click()
    for code, words in (("0", "censored"), ("1", "the event")):
        page.get_by_label(f"What {code} means").click()
        page.get_by_role("option", name=words).first.click()
    page.get_by_text("of 60 rows would have the event").wait_for()
    page.button("Set meanings").click()
    page.stage_line("Prepare").get_by_text("60 of 60 rows kept").wait_for()
    page.stage("Compare")
    page.get_by_role("table", name="Log-rank test", exact=True).wait_for()


def test_a_file_can_be_dropped(page):
    begin(page, "Dropped")
    page.evaluate(
        """text => {
            const data = new DataTransfer();
            data.items.add(new File([text], "dropped.csv", {type: "text/csv"}));
            const zone = document.querySelector(".upload");
            zone.dispatchEvent(new DragEvent("drop", {dataTransfer: data, bubbles: true}));
        }""",
        GOOD,
    )
    page.get_by_text("dropped.csv").wait_for()


def test_hostile_names_are_shown_as_text(page):
    name = "<img src=x onerror=\"document.title='owned'\">"
    quoted = '"' + name.replace('"', '""') + '"'
    text = f"{quoted},t,s,g\n" + "".join(
        f"{quoted},{k},{k % 2},{quoted if k % 3 else 'b'}\n" for k in range(1, 30)
    )
    begin(page, name)
    choose(page, "x.csv", text.encode())
    page.locator(".rows").get_by_text(name).first.wait_for()
    assert page.locator("img").count() == 0
    assert "owned" not in page.title()[:5]


def test_a_cell_is_corrected_with_a_reason(page):
    page.goto(page.address)
    page.button("Larkmoor corneal grafts, as received", exact=True).click()
    page.button("Correct …: age is far from the rest in 1 row: 9").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label(re.compile("^Row ")).fill("49")
    dialog.get_by_label("Reason").fill("the clinic sent the true age")
    dialog.get_by_role("button", name="Correct").click()
    dialog.wait_for(state="detached")
    page.get_by_text("age: 49").first.wait_for()
    page.button("Show rows: outcome is blank in 3 rows").click()
    page.get_by_text("3 rows of the finding").wait_for()


def act_on(page, name, act):
    page.button(f"More for the study: {name}").click()
    page.get_by_role("menuitem", name=act).click()


def test_a_study_is_renamed_duplicated_deleted_and_brought_back(page):
    page.goto(page.address)
    page.button("Harbour lamps", exact=True).last.click()
    page.stage_line("Prepare").get_by_text("rows kept").wait_for()
    act_on(page, "Harbour lamps", "Rename")
    page.get_by_label("Name of the study").fill("Lamps by the sea")
    page.get_by_role("dialog").get_by_role("button", name="Rename").click()
    page.locator(".stage-nav-study", has_text="Lamps by the sea").wait_for()
    act_on(page, "Lamps by the sea", "Duplicate")
    page.get_by_role("dialog").get_by_role("button", name="Duplicate").click()
    page.locator(".stage-nav-study", has_text="Lamps by the sea, copy").wait_for()
    page.stage_line("Prepare").get_by_text("24 of 24 rows kept").wait_for()
    act_on(page, "Lamps by the sea, copy", "Delete")
    page.get_by_text("Deleted “Lamps by the sea, copy”.").wait_for()
    assert page.get_by_role("link", name="Lamps by the sea, copy").count() == 0
    page.get_by_role("alert").get_by_role("button", name="Undo").click()
    page.get_by_role("link", name="Lamps by the sea, copy").wait_for()
    page.get_by_label("Search by name or file").fill("sea, copy")
    page.get_by_role("link", name="Lamps by the sea", exact=True).wait_for(state="detached")
    assert page.axe() == []


def test_a_file_dropped_or_rows_pasted_on_the_list_begin_a_study(page):
    # The first list of studies, which does not hold the study, never comes.
    page.add_init_script(
        """const fetched = window.fetch;
        let lists = 0;
        window.fetch = async (request) => {
            const answer = await fetched(request);
            const list = request.method === "GET" && request.url.endsWith("/api/studies");
            return list && lists++ === 0 ? new Promise(() => {}) : answer;
        }"""
    )
    page.goto(page.address)
    page.get_by_role("heading", name="Studies").wait_for()
    page.evaluate(
        """text => {
            const data = new DataTransfer();
            data.items.add(new File([text], "pump_room.csv", {type: "text/csv"}));
            window.dispatchEvent(new DragEvent("drop", {dataTransfer: data, bubbles: true}));
        }""",
        GOOD,
    )
    page.locator(".stage-nav-study", has_text="Pump room").wait_for()
    page.goto(page.address)
    page.get_by_role("heading", name="Studies").wait_for()
    paste = """text => {
        const data = new DataTransfer();
        data.setData("text/plain", text);
        document.body.dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, bubbles: true}));
    }"""
    seven = "time status\n" + "".join(f"{t} {t % 2}\n" for t in (5, 6, 9, 12, 13, 15, 18))
    page.evaluate(paste, seven)
    page.locator(".stage-nav-study", has_text="Pasted rows").wait_for()

    # From seven rows to a curve: the unit, and what the codes mean.
    page.slot("unit").click()
    page.get_by_role("menuitem", name=re.compile("^weeks")).click()
    page.slot("meanings").click()
    for code, means in (("0", "censored"), ("1", "the event")):
        page.get_by_label(f"What {code} means").click()
        page.get_by_role("option", name=re.compile(f"^{means}")).click()
    page.button("Set meanings").click()
    page.stage_line("Prepare").get_by_text("7 of 7 rows kept").wait_for()
    page.stage("Estimate")
    page.get_by_role("slider", name="Sand line").wait_for()


def test_a_study_that_is_gone_is_stated(page):
    page.goto(f"{page.address}/studies/00000000-0000-0000-0000-000000000000/compare")
    page.get_by_text("This study cannot be opened").wait_for()
    page.get_by_text("There is no such study").first.wait_for()
    page.errors[:] = [e for e in page.errors if "404" not in e]
