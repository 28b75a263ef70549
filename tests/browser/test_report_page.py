"""The report composed on its page and saved: pieces moved, words written, files read back."""

import io
import re

import httpx
from docx import Document
from pypdf import PdfReader

STUDY = "Larkmoor corneal grafts"


def shown(page):
    return [e.get_attribute("id") for e in page.locator(".report-piece").all()]


def settled(page):
    page.locator("main[data-changing='false']").wait_for()


def opened(page):
    for stage in ("Estimate", "Compare", "Model", "Check", "Report"):
        page.stage(stage)
        settled(page)
    page.locator("#piece-session").wait_for()


def test_pieces_are_moved_left_out_and_put_back(page):
    page.open(STUDY, "estimate")
    opened(page)
    before = shown(page)
    page.button("Move Methods: arrow up or down").focus()
    page.keyboard.press("ArrowUp")
    page.locator(".report-piece:first-child#piece-methods").wait_for()
    assert shown(page)[:2] == ["piece-methods", "piece-summary"]
    page.locator("#piece-rows").hover()
    page.button("Leave out Rows read, set aside and analysed").click()
    page.locator("#piece-rows").wait_for(state="detached")
    page.get_by_text("Print the rows read, set aside and analysed.").wait_for()
    page.button("Put back Rows read, set aside and analysed").click()
    page.locator("#piece-rows").wait_for()
    assert sorted(shown(page)) == sorted(before)
    page.set_viewport_size({"width": 1280, "height": 1400})
    assert page.axe() == []
    page.button("Move Methods: arrow up or down").scroll_into_view_if_needed()
    handle = page.button("Move Methods: arrow up or down").bounding_box()
    below = page.locator("#piece-summary").bounding_box()
    page.mouse.move(handle["x"] + 5, handle["y"] + 5)
    page.mouse.down()
    page.mouse.move(handle["x"] + 5, below["y"] + 0.6 * below["height"], steps=6)
    page.mouse.up()
    page.locator(".report-piece:first-child#piece-summary").wait_for()
    settled(page)
    assert shown(page) == before


def test_words_are_written_in_place_and_flagged_when_their_numbers_change(page):
    page.open(STUDY, "estimate")
    opened(page)
    text = page.locator("#piece-follow-up .words").nth(1)
    text.hover()
    text.get_by_role("button", name=re.compile("^Edit")).click()
    page.get_by_role("textbox", name="Words of the report").fill(
        "The median lay between 43.2 and 66.0 months."
    )
    page.keyboard.press("Control+Enter")
    page.get_by_text("the author’s words").wait_for()
    assert page.locator(".words-doubt").count() == 0
    study = page.study(STUDY)
    now = httpx.get(f"{page.address}/api/studies/{study}/estimate", timeout=60).json()["statement"]
    seen = httpx.get(f"{page.address}/api/studies/{study}", timeout=60).headers["etag"]
    put = httpx.put(
        f"{page.address}/api/studies/{study}/statement",
        json={**now, "confidence": 0.9},
        headers={"If-Match": seen, "Origin": page.address},
        timeout=60,
    )
    assert put.status_code == 204, put.text
    page.reload()
    page.get_by_text(
        "The results no longer contain 43.2 and 66.0, which these words quote."
    ).wait_for()
    page.get_by_text("1 passage to read again").wait_for()
    page.button("Use the words made now").click()
    page.locator(".words-doubt").wait_for(state="detached")
    assert page.get_by_text("the author’s words").count() == 0
    page.keyboard.press("Control+z")
    page.locator(".words-doubt").wait_for()
    page.keyboard.press("Control+z")


def test_a_study_has_several_reports(page):
    page.open(STUDY, "report")
    page.locator("#piece-methods").wait_for()
    page.button("Begin another report").click()
    page.get_by_role("textbox").last.fill("For the journal")
    page.button("Begin", exact=True).click()
    page.button("For the journal").wait_for()
    page.locator("#piece-methods").wait_for()
    page.slot("width").click()
    page.get_by_role("menuitem", name="a journal column, 85 mm").click()
    page.slot("width").get_by_text("a journal column, 85 mm").wait_for()
    page.button("First report").click()
    page.slot("width").get_by_text("a page, 170 mm").wait_for()
    page.button("For the journal").click()
    page.slot("width").get_by_text("a journal column, 85 mm").wait_for()
    settled(page)
    page.button("Delete this report").click()
    page.button("For the journal").wait_for(state="detached")


def test_the_saved_document_and_pages_hold_the_numbers_of_the_program(page):
    page.open(STUDY, "estimate")
    opened(page)
    study = page.study(STUDY)
    result = httpx.get(f"{page.address}/api/studies/{study}/report", timeout=60).json()["result"]
    tables = [table for piece in result["pieces"] for table in piece["tables"]]
    saved = {}
    for form in ("DOCX", "PDF"):
        with page.expect_download() as download:
            page.get_by_role("button", name=form, exact=True).click()
        with open(download.value.path(), "rb") as file:
            saved[form] = file.read()
    document = Document(io.BytesIO(saved["DOCX"]))
    written = {
        " ".join(cell.text.lstrip("●◐○ ").split())
        for laid in document.tables
        for line in laid.rows[1:]
        for cell in line.cells
    }
    cells = {" ".join(c["text"].split()) for t in tables for row in t["rows"] for c in row}
    assert cells == written
    pdf = PdfReader(io.BytesIO(saved["PDF"]))
    text = re.sub(r"\s", "", "".join(p.extract_text() for p in pdf.pages))
    for table in tables:
        for row in table["rows"]:
            assert all(re.sub(r"\s", "", cell["text"]) in text for cell in row), table["key"]
