"""The report as a DOCX document: headings, real tables, figures of 300 dots to the inch."""

import io
import re
from collections.abc import Sequence
from datetime import datetime, time
from typing import Any

from docx import Document
from docx.enum.text import WD_ALIGN_PARAGRAPH
from docx.oxml import OxmlElement
from docx.oxml.ns import qn
from docx.shared import Mm, Pt, RGBColor

from hourglass.report.composed import Composed, ComposedFigure, ComposedPiece
from hourglass.report.fixed_zip import with_fixed_times
from hourglass.report.formats.fitting import fitted, widths
from hourglass.report.formats.form import ReportForm
from hourglass.report.formats.page import MAX_ROWS_KEPT_TOGETHER, shown
from hourglass.report.formats.tied import tied
from hourglass.report.print.files import print_figures
from hourglass.report.tables import ReportTable

ILLEGAL = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
MEDIA = "application/vnd.openxmlformats-officedocument.wordprocessingml.document"
TEXT_WIDTH = 170
"""Millimetres between the margins of an A4 page."""
MARGIN = 20
LETTER = 2.1
"""Millimetres of a letter on average: the font may not be there, and the one in its place is wide."""
BODY, HEADING = "Source Sans 3", "Source Serif 4"
INK, QUIET = RGBColor(0x1F, 0x2B, 0x33), RGBColor(0x5E, 0x6B, 0x70)


def to_docx(report: Composed) -> bytes:
    """The report as a document that can be edited."""
    made = Document()
    _set_page(made)
    _set_styles(made)
    _set_properties(made, report)
    made.add_heading(_legal(report.title), 0)
    _quiet(made, report.line)
    for piece in report.pieces:
        _add_piece(made, piece)
    _quiet(made, f"Made with Olden Hourglass {report.version} on {report.made_on}.")
    out = io.BytesIO()
    made.save(out)
    return with_fixed_times(out.getvalue())


def _set_page(made: Any) -> None:
    page = made.sections[0]
    page.page_width, page.page_height = Mm(210), Mm(297)
    page.left_margin = page.right_margin = page.top_margin = page.bottom_margin = Mm(MARGIN)


def _set_styles(made: Any) -> None:
    sizes = {"Normal": 10.5, "Title": 20, "Heading 1": 14, "Caption": 10}
    for name, size in sizes.items():
        style = made.styles[name]
        _set_font(style, BODY if name == "Normal" else HEADING)
        style.font.size, style.font.color.rgb = Pt(size), INK
        style.font.italic = False
    made.styles["Normal"].paragraph_format.space_after = Pt(6)
    made.styles["Caption"].paragraph_format.keep_with_next = True


def _set_font(style: Any, name: str) -> None:
    style.font.name = name
    fonts = style.element.get_or_add_rPr().get_or_add_rFonts()
    for script in ("ascii", "hAnsi", "eastAsia", "cs"):
        fonts.set(qn(f"w:{script}"), name)
    for theme in ("asciiTheme", "hAnsiTheme", "eastAsiaTheme", "cstheme"):
        fonts.attrib.pop(qn(f"w:{theme}"), None)


def _set_properties(made: Any, report: Composed) -> None:
    about = made.core_properties
    about.title, about.author, about.comments = _legal(report.title), "", ""
    about.created = about.modified = datetime.combine(report.dated, time())
    about.last_modified_by = f"Olden Hourglass {report.version}"


def _add_piece(made: Any, piece: ComposedPiece) -> None:
    made.add_heading(_legal(piece.title.text), 1)
    for text in piece.running_text:
        paragraph = made.add_paragraph(_legal(tied(text)))
    if piece.refers:
        paragraph.paragraph_format.keep_with_next = True
    for table in piece.tables:
        for part in fitted(table, TEXT_WIDTH, LETTER):
            _add_table(made, part)
    if piece.figure is not None:
        _add_figure(made, piece.figure)
    for caution in piece.cautions:
        paragraph = made.add_paragraph()
        paragraph.add_run(f"{caution.lead} ").bold = True
        paragraph.add_run(caution.sentence)
    if piece.items:
        _add_items(made, piece.items)
    if piece.note is not None:
        _quiet(made, piece.note.text)


def _add_items(made: Any, items: Sequence[str]) -> None:
    """A numbered list that begins at 1, whatever other lists there are."""
    numbering = made.part.numbering_part.element
    style = made.styles["List Number"].element.pPr.numPr.numId.val
    of_style = next(one for one in numbering.num_lst if one.numId == style)
    fresh = numbering.add_num(of_style.abstractNumId.val)
    fresh.add_lvlOverride(ilvl=0).add_startOverride(1)
    for item in items:
        paragraph = made.add_paragraph(_legal(item), style="List Number")
        number = paragraph._p.get_or_add_pPr().get_or_add_numPr()
        number.get_or_add_numId().val = fresh.numId
        number.get_or_add_ilvl().val = 0


def _add_table(made: Any, table: ReportTable) -> None:
    if table.number and not table.continued:
        _add_caption(made, "Table", table.number, table.title)
    else:  # one that goes on is not counted again
        made.add_paragraph(_legal(table.caption), style="Caption")
    laid = made.add_table(rows=0, cols=len(table.head))
    laid.autofit = False
    wide = [Mm(mm) for mm in widths(table, TEXT_WIDTH, LETTER)]
    for column, width in zip(laid.columns, wide, strict=True):
        column.width = width
    head = laid.add_row()
    _repeat_on_each_page(head)
    for place, text, wordy in zip(head.cells, table.head, table.wordy, strict=True):
        _fill(place, text, bold=True, right=not wordy)
    _rule(head, "12")
    for row in table.rows:
        line = laid.add_row()
        _keep_together(line)
        for place, cell, wordy in zip(line.cells, row, table.wordy, strict=True):
            _fill(place, shown(cell), bold=False, right=not wordy)
        _rule(line, "4")
    for k, row in enumerate(laid.rows):
        for place, width in zip(row.cells, wide, strict=True):
            place.width = width
            together = len(table.rows) <= MAX_ROWS_KEPT_TOGETHER and k < len(table.rows)
            place.paragraphs[0].paragraph_format.keep_with_next = together
    _quiet(made, table.note)


def _add_caption(made: Any, kind: str, number: int, title: str) -> None:
    """A caption whose number is a field, so that lists of tables and references can be made of it."""
    paragraph = made.add_paragraph(style="Caption")
    paragraph.add_run(f"{kind} ")
    field = OxmlElement("w:fldSimple")
    field.set(qn("w:instr"), f" SEQ {kind} \\* ARABIC ")
    run = OxmlElement("w:r")
    text = OxmlElement("w:t")
    text.text = str(number)
    run.append(text)
    field.append(run)
    paragraph._p.append(field)
    paragraph.add_run(_legal(f". {title}"))


def _fill(place: Any, text: str, *, bold: bool, right: bool) -> None:
    paragraph = place.paragraphs[0]
    run = paragraph.add_run(_legal(text))
    run.bold, run.font.size = bold, Pt(9)
    paragraph.paragraph_format.space_after = Pt(1)
    if right:
        paragraph.alignment = WD_ALIGN_PARAGRAPH.RIGHT


def _repeat_on_each_page(row: Any) -> None:
    row._tr.get_or_add_trPr().append(OxmlElement("w:tblHeader"))


def _keep_together(row: Any) -> None:
    row._tr.get_or_add_trPr().append(OxmlElement("w:cantSplit"))


def _rule(row: Any, eighths: str) -> None:
    """A line under a row, in eighths of a point."""
    for place in row.cells:
        borders = OxmlElement("w:tcBorders")
        bottom = OxmlElement("w:bottom")
        for name, value in (
            ("val", "single"),
            ("sz", eighths),
            ("space", "0"),
            ("color", "8A8F8C"),
        ):
            bottom.set(qn(f"w:{name}"), value)
        borders.append(bottom)
        place._tc.get_or_add_tcPr().append(borders)


def _add_figure(made: Any, figure: ComposedFigure) -> None:
    picture = io.BytesIO(print_figures([figure.drawing], "png"))
    width = min(figure.drawing.settings.width, TEXT_WIDTH)
    shape = made.add_picture(picture, width=Mm(width))
    shape._inline.docPr.set("descr", _legal(figure.name))
    made.paragraphs[-1].paragraph_format.keep_with_next = True
    _add_caption(made, "Figure", figure.number, figure.title)
    if figure.note is not None:
        _quiet(made, figure.note.text)


def _quiet(made: Any, text: str) -> None:
    """Small print, with the space that sets it apart from what follows; also where there is no text."""
    run = made.add_paragraph().add_run(_legal(text))
    run.font.size, run.font.color.rgb = Pt(9), QUIET


def _legal(text: str) -> str:
    """Text in which a sign that a document cannot hold is seen to have been there."""
    return ILLEGAL.sub("\ufffd", text)


DOCUMENT = ReportForm("docx", MEDIA, "a document to edit", to_docx)
