"""The report as one HTML page without any outside part, and its template for paper."""

from functools import partial

from jinja2 import Environment, PackageLoader, StrictUndefined
from markupsafe import Markup, escape

from hourglass.analysis.shared.cell import Cell
from hourglass.report.composed import Composed, ComposedPiece
from hourglass.report.formats.fitting import fitted, widths
from hourglass.report.formats.form import ReportForm
from hourglass.report.formats.tied import tied
from hourglass.report.page_fonts import paper_fonts, screen_fonts
from hourglass.report.print.files import inline_svg
from hourglass.report.tables import ReportTable

SHAPES = {"holds": "● ", "in doubt": "◐ ", "fails": "○ "}
"""The shape in front of a cell that has a verdict, where a form can only write letters."""
PAPER_WIDTH = 174
"""Millimetres between the margins of an A4 page."""
MAX_ROWS_KEPT_TOGETHER = 6
"""Rows of a table that is kept on one page."""
_templates = Environment(
    loader=PackageLoader("hourglass.report"), autoescape=True, undefined=StrictUndefined
)


def shown(cell: Cell) -> str:
    """The text of a cell, the shape of its verdict before it."""
    return SHAPES.get(cell.verdict or "", "") + tied(cell.text)


def drawn_cell(cell: Cell) -> Markup:
    """The same on a page, the shape drawn: fonts lack the letter of a half circle."""
    if cell.verdict not in SHAPES:
        return escape(tied(cell.text))
    name = cell.verdict.replace(" ", "-")
    return Markup('<span class="verdict {}" aria-hidden="true"></span>{}').format(name, cell.text)


def to_html(report: Composed, *, paper: bool = False) -> str:
    """The whole report as one page, for a screen or to be laid out on paper."""
    return _templates.get_template("report.html.j2").render(
        report=report,
        fonts=paper_fonts() if paper else screen_fonts(),
        parts={
            piece.key: [part for table in piece.tables for part in _parts(table, paper=paper)]
            for piece in report.pieces
        },
        short=MAX_ROWS_KEPT_TOGETHER,
        tied=tied,
        widths=partial(widths, millimetres=PAPER_WIDTH) if paper else None,
        drawn={piece.key: _drawn(piece, paper=paper) for piece in report.pieces},
        shown=drawn_cell,
        millimetres=report.millimetres,
        paper=paper,
    )


def _parts(table: ReportTable, *, paper: bool) -> tuple[ReportTable, ...]:
    """On paper a table is split where it is too wide; a screen moves it to the side."""
    return fitted(table, PAPER_WIDTH) if paper else (table,)


def _drawn(piece: ComposedPiece, *, paper: bool) -> Markup | None:
    if piece.figure is None:
        return None
    # On paper the page has the fonts of figures too.
    return Markup(inline_svg(piece.figure.drawing, fonts=not paper))  # noqa: S704 (escaped there)


PAGE = ReportForm(
    "html", "text/html", "one page for a browser", lambda report: to_html(report).encode()
)
