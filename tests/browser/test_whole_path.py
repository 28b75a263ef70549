"""An analyst's path: a file sent, prepared, estimated, compared, modelled, checked, reported; and again."""

import io
import json
import re

import httpx
from docx import Document
from pypdf import PdfReader

from browser.test_files import begin, choose
from browser.test_model_loop import settled
from browser.test_tour import decide, give_meanings


def extract(rows, first=0):
    """A messy data extract: an arm spelled in two ways, blank ends, codes in letters."""
    lines = ["no,weeks,ended,arm,age"]
    for k in range(first, first + rows):
        ended = "" if k in (7, 31) else "F" if k % 3 == 0 or k % 11 == 0 else "S"
        arm = ("Coated" if k % 5 == 0 else "coated") if k % 2 else "bare"
        lines.append(f"V{k:03d},{(k * 37 % 90) + 1},{ended},{arm},{30 + k * 13 % 40}")
    return "\n".join(lines)


def number_of(text):
    """The number that a cell's text is, and half a unit of its last digit; None for other words."""
    plain = text.replace("−", "-").replace(" ", "").lstrip("●◐○ ")
    found = re.fullmatch(r"([+-]?\d+)(?:\.(\d+))?(%?)", plain)
    if found is None:
        return None
    scale = 0.01 if found[3] else 1.0
    return float(plain.rstrip("%")) * scale, 0.5 * 10.0 ** -len(found[2] or "") * scale


def checked_against(shown, table):
    """How many cells, read back as rows of texts, are numbers that agree with the raw values."""
    numbers = 0
    for line, row in zip(shown, table["rows"], strict=True):
        for text, cell, head in zip(line, row, table["head"], strict=True):
            assert text.replace("\u200b", "").replace("\xa0", " ") == cell["text"].replace(
                "\xa0", " "
            )
            read = number_of(text)
            if read is not None and isinstance(cell["raw"], int | float):
                value, half = read
                if head == "percentage points":
                    value, half = value / 100, half / 100
                assert abs(value - cell["raw"]) <= half * (1 + 1e-9), (table["key"], text, cell)
                numbers += 1
    return numbers


def rows_of(laid):
    """The texts of a table of a document, without the shapes of verdicts."""
    texts = [[cell.text for cell in line.cells] for line in laid.rows[1:]]
    return [[t.lstrip("●◐○ ") if t[:1] in "●◐○" else t for t in line] for line in texts]


def first_columns(shown, more):
    """How many columns a part repeats of the one before it."""
    for k in (2, 1):
        if all(a[:k] == b[:k] for a, b in zip(shown, more, strict=True)):
            return k
    return 0


def test_an_analysts_path_and_that_of_the_next_month(page):
    saved = from_upload_to_document(page)
    the_plan_makes_the_next_report(page, saved["Save the plan"])
    the_model_is_applied_to_the_next_file(page)


def from_upload_to_document(page):
    """What was saved; every number in the tables is the program's."""
    saved = {}
    begin(page, "Valves")
    choose(page, "valves.csv", extract(120).encode())
    page.get_by_text("120 rows").first.wait_for()
    give_meanings(page, {"F": "the event", "S": "censored"})
    decide(page, "Set aside", "ended is blank in 2 rows", "the card was lost")
    decide(page, "Spell one way", "arm spells 2 levels in 3 ways", "capitals only")
    page.stage_line("Prepare").get_by_text("118 of 120 rows kept").wait_for()
    page.stage("Estimate")
    page.stage_line("Estimate").get_by_text("median").wait_for()
    page.stage("Compare")
    page.get_by_role("table", name="Log-rank test", exact=True).wait_for()
    page.stage("Model")
    page.get_by_text("In words").wait_for()
    page.slot("add-term").click()
    page.get_by_role("menuitem", name=re.compile("^age")).click()
    page.locator(".category-figure").get_by_text("age").first.wait_for()
    settled(page)
    page.stage("Check")
    settled(page)
    page.stage("Report")
    page.locator("#piece-session").wait_for()
    page.button("Seal the plan").click()
    page.get_by_role("dialog").get_by_role("button", name="Seal", exact=True).click()
    page.get_by_role("link", name="Nothing departs from it.").wait_for()
    page.locator("#piece-plan").get_by_text("after the data were read").wait_for()
    settled(page)
    assert page.axe() == []

    study = page.study("Valves")
    result = httpx.get(f"{page.address}/api/studies/{study}/report", timeout=60).json()["result"]
    tables = [table for piece in result["pieces"] for table in piece["tables"]]
    for form in ("DOCX", "PDF", "Save the plan"):
        with page.expect_download() as download:
            page.get_by_role("link" if " " in form else "button", name=form, exact=True).click()
        with open(download.value.path(), "rb") as file:
            saved[form] = file.read()
    numbers = 0
    document = Document(io.BytesIO(saved["DOCX"]))
    parts = iter(document.tables)
    for table in tables:
        shown = rows_of(next(parts))
        while len(shown[0]) < len(table["head"]):  # too wide for a page: it goes on below
            more = rows_of(next(parts))
            again = first_columns(shown, more)
            shown = [[*line, *rest[again:]] for line, rest in zip(shown, more, strict=True)]
        numbers += checked_against(shown, table)
    assert next(parts, None) is None
    assert numbers > 60
    pdf = PdfReader(io.BytesIO(saved["PDF"]))
    text = re.sub(r"\s", "", "".join(p.extract_text() for p in pdf.pages))
    for table in tables:
        for row in table["rows"]:
            assert all(re.sub(r"\s", "", cell["text"]) in text for cell in row), table["key"]
    return saved


def the_plan_makes_the_next_report(page, document):
    begin(page, "Valves, next month")
    choose(page, "next.csv", extract(150).encode())
    page.get_by_text("150 rows").first.wait_for()

    def chosen(plan):
        page.locator(".stage-nav, header").get_by_role(
            "button", name=re.compile("⋯|study")
        ).first.click()
        page.get_by_role("menuitem", name="Apply a plan").click()
        payload = {"name": "plan.json", "mimeType": "application/json", "buffer": plan}
        page.get_by_label("File of the plan").set_input_files(payload)

    dialog = page.get_by_role("dialog")
    other = json.loads(document)
    term = {"kind": "number", "column": "weight"}
    other["analyses"] = [{"stage": "model", "statement": {"version": 4, "terms": [term]}}]
    chosen(json.dumps(other).encode())
    dialog.get_by_text("1 of 4 parts does not fit the file as it is.").wait_for()
    dialog.get_by_text(re.compile("no: .*weight")).wait_for()
    assert page.axe() == []
    dialog.get_by_role("button", name="Cancel").click()
    dialog.wait_for(state="detached")
    chosen(document)
    dialog.get_by_text("All of it fits the file.").wait_for()
    dialog.get_by_role("button", name="Apply").click()
    page.get_by_text("is in place.").wait_for()
    page.stage_line("Prepare").get_by_text("148 of 150 rows kept").wait_for()
    page.stage("Report")
    page.locator("#piece-decisions").get_by_text("the card was lost").wait_for()
    page.locator("#piece-ratios").get_by_text("age").first.wait_for()


def the_model_is_applied_to_the_next_file(page):
    page.open("Valves", "model")
    page.locator(".category-figure").wait_for()
    page.button(re.compile("^More for the study")).click()
    page.get_by_role("menuitem", name="Apply the model to another study").click()
    dialog = page.get_by_role("dialog", name="Apply the model to another study")
    dialog.get_by_label("Study", exact=True).click()
    page.get_by_role("option", name="Valves, next month").click()
    table = dialog.get_by_role("table", name="The model on other rows")
    table.get_by_text("148").wait_for()
    dialog.get_by_role("img", name="Predicted and observed survival").wait_for()
    assert page.axe() == []
    with page.expect_download() as download:
        dialog.get_by_role("link", name="Save the predictions (CSV)").click()
    with open(download.value.path(), encoding="utf-8-sig") as file:
        assert len(file.read().splitlines()) == 149
