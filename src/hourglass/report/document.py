"""The report as one page that reads like a results section, self-contained and printable."""

from collections.abc import Sequence
from dataclasses import dataclass

from jinja2 import Environment, PackageLoader, StrictUndefined
from markupsafe import Markup

from hourglass import VERSION
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.figure.arranging import GroupLook
from hourglass.analysis.shared.stage import Stages, stage_of
from hourglass.report.page_fonts import font_faces
from hourglass.report.pieces.piece import Findings, Pieces, Printed
from hourglass.report.print.figure import Printable
from hourglass.report.print.files import inline_svg
from hourglass.report.print.settings import PrintSettings
from hourglass.report.report_result import NamedTable, Offer, ReportResult
from hourglass.report.sentence import report_sentence
from hourglass.report.statement import ReportStatement
from hourglass.report.tables import ReportTable

PAGE_WIDTH = 170
"""Millimetres of a printed page."""
SHAPES = {"holds": "● ", "in doubt": "◐ ", "fails": "○ "}
_templates = Environment(
    loader=PackageLoader("hourglass.report"), autoescape=True, undefined=StrictUndefined
)


@dataclass(frozen=True, slots=True)
class PrintedPiece:
    """A piece with what it prints, its figure drawn."""

    key: str
    title: str
    body: Printed
    drawn: Markup | None


def report_of(
    found: Findings, statement: ReportStatement, pieces: Pieces, stages: Stages
) -> ReportResult:
    """The report as a page, with its tables and what it could print besides."""
    made = printed(found, statement, pieces)
    return ReportResult(
        sentence=report_sentence(statement, pieces, found.study),
        html=to_html(found, statement, made),
        tables=[NamedTable(key=t.key, title=t.title) for t in tables(made)],
        offers=_offers(found, statement, pieces, stages),
        headline=wording.count(len(made), "pieces"),
    )


def printed(
    found: Findings, statement: ReportStatement, pieces: Pieces
) -> tuple[PrintedPiece, ...]:
    """The pieces that are printed: those of the statement whose stage somebody asked for."""
    made = []
    for piece in pieces:
        if piece.key not in statement.left_out and piece.there(found):
            body = piece.render(found)
            if body.empty:
                continue
            made.append(PrintedPiece(piece.key, piece.title, body, _drawn(body, found.looks)))
    return tuple(made)


def _drawn(body: Printed, looks: Sequence[GroupLook]) -> Markup | None:
    if body.figure is None:
        return None
    settings = PrintSettings(tracks=list(body.figure.tracks), width=PAGE_WIDTH)
    made = inline_svg(Printable(body.figure.figure, settings, looks))
    return Markup(made)  # noqa: S704 (escaped there)


def tables(made: tuple[PrintedPiece, ...]) -> tuple[ReportTable, ...]:
    """The tables of the pieces that are printed."""
    return tuple(table for piece in made for table in piece.body.tables)


def to_html(found: Findings, statement: ReportStatement, made: tuple[PrintedPiece, ...]) -> str:
    """The whole report as one HTML file without any outside part."""
    return _templates.get_template("report.html.j2").render(
        title=statement.title or found.study,
        fonts=font_faces(),
        line=found.cohort.line,
        pieces=made,
        shapes=SHAPES,
        version=VERSION,
    )


def _offers(
    found: Findings, statement: ReportStatement, pieces: Pieces, stages: Stages
) -> list[Offer]:
    """What could be printed if somebody opened its stage: the last of those that bring it."""
    offers = []
    for piece in pieces:
        stage = piece.needs[-1] if piece.needs else None
        if stage and piece.offer and not found.has(stage) and piece.key not in statement.left_out:
            title = stage_of(stages, stage).title
            sentence = f"{piece.offer}: printed once {title} has been opened."
            offers.append(Offer(stage=stage, stage_title=title, sentence=sentence))
    return offers
