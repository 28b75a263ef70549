"""The report as files: read back, they hold the same words and numbers, and twice the same bytes."""

import csv
import io
import json
import re
from dataclasses import replace
from datetime import datetime
from functools import cache

import pytest
from docx import Document
from docx.oxml.ns import qn
from pypdf import PdfReader
from python_calamine import CalamineWorkbook

from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.cell import estimate, number_cell, words
from hourglass.core.progress import no_progress
from hourglass.report.cell_columns import cell_columns
from hourglass.report.composed import composed
from hourglass.report.editable_text import Edited, editable_text
from hourglass.report.formats.document import LETTER, TEXT_WIDTH
from hourglass.report.formats.fitting import fitted
from hourglass.report.formats.registry import FORMS
from hourglass.report.formats.tied import tied
from hourglass.report.gathering import Gathering
from hourglass.report.outputs import results_json
from hourglass.report.pieces.registry import PIECES
from hourglass.report.statement import ReportStatement, in_order
from hourglass.report.tables import ReportTable, harmless, to_csv
from hourglass.study.demos import load_demo
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.in_process import InProcess
from hourglass.study.results import Results

BY_KEY = {form.key: form for form in FORMS}


@cache
def found():
    """What a report of the demo is made from, every stage opened."""
    repository, kept = InMemory(), BlobsInMemory()
    made, _ = load_demo(repository, kept, "larkmoor")
    for stage in STAGES:
        repository.open_analysis(repository.begin_analysis(made, stage.name, False))
    results = Results(repository, kept, InProcess(), STAGES)
    return Gathering(results, PIECES, repository.load(made), ReportStatement()).now(no_progress)


def report(**statement):
    return composed(found(), ReportStatement(**statement), PIECES)


def one_line(text):
    return " ".join(text.split())


@pytest.mark.parametrize("form", FORMS, ids=lambda form: form.key)
def test_a_report_made_twice_is_the_same_file(form):
    made = report(left_out=("weights", "tests", "estimates", "terms"))
    assert form.write(made) == form.write(made)


def test_every_id_of_the_page_is_there_once_and_every_reference_finds_its_own():
    page = BY_KEY["html"].write(report()).decode()
    ids = re.findall(r'\bid="([^"]+)"', page)
    assert len(ids) == len(set(ids)) > 20
    referred = set(re.findall(r'(?:href="#|url\(#)([^")]+)', page))
    assert referred <= set(ids)
    assert any("-" in one for one in referred), "the clips of figures are referred to"


def test_a_document_has_headings_real_tables_and_figures():
    made = report()
    document = Document(io.BytesIO(BY_KEY["docx"].write(made)))
    styled = [(p.style.name, p.text) for p in document.paragraphs]
    assert styled[0] == ("Title", "Larkmoor corneal grafts")
    headings = [text for style, text in styled if style == "Heading 1"]
    assert headings == [piece.title.text for piece in made.pieces]
    printed = [t for piece in made.pieces for t in piece.tables]
    parts = [part for table in printed for part in fitted(table, TEXT_WIDTH, LETTER)]
    assert len(document.tables) == len(parts)
    for laid, table in zip(document.tables, parts, strict=True):
        assert [cell.text for cell in laid.rows[0].cells] == list(table.head)
        assert laid.rows[0]._tr.trPr.find(qn("w:tblHeader")) is not None
        assert all(line._tr.trPr.find(qn("w:cantSplit")) is not None for line in laid.rows[1:])
        for line, row in zip(laid.rows[1:], table.rows, strict=True):
            texts = [cell.text.lstrip("●◐○ ") for cell in line.cells]
            assert texts == [tied(cell.text) for cell in row]
    figures = [piece.figure for piece in made.pieces if piece.figure is not None]
    described = [shape._inline.docPr.get("descr") for shape in document.inline_shapes]
    assert described == [figure.name for figure in figures]
    fields = document.element.body.iter(qn("w:fldSimple"))
    counted = [field.get(qn("w:instr")).split()[1] for field in fields]
    assert (counted.count("Table"), counted.count("Figure")) == (len(printed), len(figures))
    assert document.core_properties.created.date() == made.dated


def test_a_pdf_has_its_fonts_bookmarks_and_every_number():
    made = report()
    pdf = PdfReader(io.BytesIO(BY_KEY["pdf"].write(made)))
    assert [mark.title for mark in pdf.outline[0:1]] == [made.title]
    below = pdf.outline[1]
    assert [mark.title for mark in below] == [piece.title.text for piece in made.pieces]
    fonts = [
        font.get_object()
        for page in pdf.pages
        for font in page["/Resources"]["/Font"].get_object().values()
    ]
    assert fonts
    for font in fonts:
        own = font["/DescendantFonts"][0].get_object()["/FontDescriptor"].get_object()
        assert "/FontFile2" in own or "/FontFile3" in own
    text = one_line(" ".join(page.extract_text() for page in pdf.pages))
    bare = re.sub(r"\s", "", text)
    for table in (t for piece in made.pieces for t in piece.tables):
        for row in table.rows:
            for cell in row:
                assert re.sub(r"\s", "", cell.text) in bare, (table.key, cell.text)
    root = pdf.trailer["/Root"]
    assert (root["/Lang"], root["/MarkInfo"]["/Marked"]) == ("en", True)
    kinds = set(_kinds(root["/StructTreeRoot"].get_object()))
    assert {"/H1", "/H2", "/P", "/Table", "/TH", "/TD", "/Figure"} <= kinds


def _kinds(node):
    """What the parts of a tagged page are."""
    kids = node.get("/K", [])
    for kid in kids if isinstance(kids, list) else [kids]:
        one = kid.get_object()
        if isinstance(one, dict) and "/S" in one:
            yield one["/S"]
            yield from _kinds(one)


def test_the_head_of_a_long_table_stands_on_each_of_its_pages():
    made = report(left_out=tuple(p.key for p in PIECES if p.key != "baseline"))
    (piece,) = made.pieces
    (table,) = piece.tables
    columns = (replace(c, cells=c.cells * 4, values=c.values * 4) for c in table.columns)
    long = replace(table, columns=tuple(columns))
    pdf = PdfReader(
        io.BytesIO(BY_KEY["pdf"].write(replace(made, pieces=(replace(piece, tables=(long,)),))))
    )
    pages = [one_line(page.extract_text()) for page in pdf.pages]
    assert len(pages) > 1
    assert all("standardised difference" in page for page in pages if "quadrants" in page)


def test_a_table_that_is_too_wide_goes_on_under_its_number():
    made = report(left_out=tuple(p.key for p in PIECES if p.key != "baseline"))
    (piece,) = made.pieces
    (table,) = piece.tables
    wide = replace(table, columns=(*table.columns, *table.columns[2:] * 3))
    wider = replace(made, pieces=(replace(piece, tables=(wide,)),))
    document = Document(io.BytesIO(BY_KEY["docx"].write(wider)))
    captions = [p for p in document.paragraphs if p.style.name == "Caption"]
    begins = [p.text for p in captions]
    assert begins[1:] == ["Table 1 (continued). Baseline characteristics"] * (len(begins) - 1)
    assert len(begins) > 1
    assert sum("fldSimple" in p._p.xml for p in captions) == 1
    page = BY_KEY["html"].write(wider).decode()
    assert "(continued)" not in page, "a screen moves it to the side"


def test_a_spreadsheet_holds_every_table_at_full_precision():
    made = report()
    book = CalamineWorkbook.from_filelike(io.BytesIO(BY_KEY["xlsx"].write(made)))
    names = book.sheet_names
    assert names[0] == "Contents"
    assert len(names) == len(set(names)) == len(made.tables) + 1
    for name, table in zip(names[1:], made.tables, strict=True):
        head, *rows = book.get_sheet_by_name(name).to_python(skip_empty_area=False)
        assert [str(cell) for cell in head] == [harmless(key) for key in table.keys]
        for row, values in zip(rows, table.values, strict=True):
            assert row == ["" if value is None else harmless(value) for value in values]


def test_markdown_reads_no_name_as_a_mark():
    words = {"rows/title": Edited(text="*Rows* | _all_\n1. # of them", was="Rows and follow-up")}
    text = BY_KEY["md"].write(report(words=words)).decode()
    assert "## \\*Rows\\* \\| \\_all\\_\n1\\. \\# of them" in text
    assert "![" in text


def test_the_note_of_a_table_can_be_written_by_an_author():
    made = next(p for p in report().pieces if p.key == "groups")
    own = Edited(text="Grafts are counted once.", was=made.tables[0].note)
    words = {"groups/table-groups": own}
    edited = report(words=words)
    assert not edited.lost
    assert made.tables[0].note not in BY_KEY["md"].write(edited).decode()
    assert own.text in BY_KEY["md"].write(edited).decode()
    assert own.text in BY_KEY["html"].write(edited).decode()


@pytest.mark.parametrize("form", FORMS, ids=lambda form: form.key)
def test_no_sign_in_a_name_keeps_a_report_from_being_written(form):
    others = tuple(p.key for p in PIECES if p.key != "rows")
    hostile = "=a\x01<b>\x1f\ufffe</b>"
    words = {"rows/title": Edited(text=hostile, was="")}
    made = report(title=hostile, left_out=others, words=words)
    (piece,) = made.pieces
    (table,) = piece.tables
    first, *rest = table.columns
    cells = (first.cells[0].model_copy(update={"text": hostile}), *first.cells[1:])
    column = replace(first, cells=cells, values=(hostile, *first.values[1:]))
    awkward = replace(table, columns=(column, *rest))
    written = form.write(replace(made, pieces=(replace(piece, tables=(awkward,)),)))
    assert len(written) > 500
    if form.key == "docx":
        assert Document(io.BytesIO(written)).paragraphs[0].text == "=a\ufffd<b>\ufffd\ufffd</b>"


def test_words_of_the_author_stay_and_are_flagged_when_a_number_changes():
    made = "270 events were seen in 600 grafts, p 0.003."
    edits = {"a/b": Edited(text="270 of 600 grafts were rejected.", was=made)}
    assert editable_text("a/b", made, edits).in_doubt is False
    moved = editable_text("a/b", "271 events were seen in 600 grafts, p 0.004.", edits)
    assert (moved.text, moved.edited, moved.changed) == (edits["a/b"].text, True, ("270",))
    not_quoted = editable_text("a/b", "270 events were seen in 600 grafts, p 0.004.", edits)
    assert not not_quoted.in_doubt
    assert editable_text("a/b", "No test: 270 events in 600 grafts.", edits).otherwise
    assert editable_text("c/d", made, edits).text == made


def test_pieces_stand_in_the_order_that_is_a_question_for_and_words_may_lose_their_place():
    keys = ["a", "b", "c", "d"]
    assert in_order(keys, ()) == keys
    assert in_order(keys, ("c", "a", "gone")) == ["c", "d", "a", "b"]
    made = report(
        order=("ratios", "methods"), words={"nowhere/note": Edited(text="still here", was="")}
    )
    shown = [piece.key for piece in made.pieces]
    assert shown.index("ratios") < shown.index("methods")
    assert made.lost["nowhere/note"].text == "still here"


def test_files_are_shown_with_their_hash_and_day():
    (table,) = (t for t in report().tables if t.key == "files")
    first = table.values[0]
    assert first[0] == "larkmoor_grafts.csv"
    assert re.fullmatch("[0-9a-f]{64}", str(first[5]))
    assert datetime.strptime(str(first[1]), "%d %B %Y")


def numbers_of(value):
    """Every number of a document, by its exact value."""
    if isinstance(value, dict):
        return set().union(*map(numbers_of, value.values()))
    if isinstance(value, list):
        return set().union(*map(numbers_of, value))
    return {value} if isinstance(value, int | float) and not isinstance(value, bool) else set()


def test_every_number_that_leaves_in_a_table_is_that_of_the_results_to_the_last_bit():
    made = report()
    known = numbers_of(json.loads(results_json(found())))
    book = CalamineWorkbook.from_filelike(io.BytesIO(BY_KEY["xlsx"].write(made)))
    sheets = [book.get_sheet_by_name(name).to_python() for name in book.sheet_names[1:]]
    limits = 0
    for table, sheet in zip(made.tables, sheets, strict=True):
        lines = list(csv.reader(io.StringIO(to_csv(table))))
        assert lines[0] == list(table.keys) == sheet[0]
        for line, cells, row in zip(lines[1:], sheet[1:], table.values, strict=True):
            read = [None if a == "" else float(a) if number else a.removeprefix("'")
                    for a, number in zip(line, map(is_number, row))]  # fmt: skip
            assert read == [None if v is None else v for v in row]
            assert [c for c, v in zip(cells, row) if is_number(v)] == [
                v for v in row if is_number(v)
            ]
        if table.key in {"files", "session", "decisions", "rows"}:
            continue
        for key, column in zip(table.keys, zip(*table.values, strict=True)):
            numbers = [v for v in column if is_number(v)]
            assert set(numbers) <= known, f"{table.key}: {key}"
            words = [v for v in column if isinstance(v, str)]
            assert not (numbers and words), f"{table.key}: {key} holds numbers and words"
            limits += key.endswith(("_lower", "_upper"))
            if key.endswith("_lower"):
                of = key[:-6]
                assert f"{of}_upper" in table.keys
                assert of in table.keys or f"{of}_ratio" in table.keys
    assert limits > 30


def is_number(value):
    return isinstance(value, int | float)


def test_what_is_infinite_not_reached_or_a_reference_is_an_empty_cell_with_its_reason():
    ratio = number_cell("not defined", None, note="no event in one group")
    rows = [
        [words("a"), words("reference"), words("reference")],
        [words("b"), estimate("2.0", 2.0, 1.0, None, note="upper limit infinite"), number_cell("0.1", 0.1)],
        [words("c"), ratio],
        [words("=d"), words("there is no such group", wordy=True)],
    ]  # fmt: skip
    columns = cell_columns(("", "", ""), ("group", "ratio", "p"), rows)
    table = ReportTable(key="t", title="T", columns=columns)
    assert table.keys == ("group", "ratio", "ratio_lower", "ratio_upper", "p", "note")
    assert table.values == (
        ("a", None, None, None, None, "ratio: reference; p: reference"),
        ("b", 2.0, 1.0, None, 0.1, "ratio: upper limit infinite"),
        ("c", None, None, None, None, "ratio: no event in one group"),
        ("=d", None, None, None, None, "there is no such group"),
    )
    assert "\r\n'=d,," in to_csv(table)
