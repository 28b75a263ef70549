"""The report composed: its pieces in order, their words as they are read, their figures to be drawn."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import count

from hourglass import VERSION
from hourglass.analysis.shared.cautions import Caution
from hourglass.analysis.shared.figure.arranging import GroupLook
from hourglass.report.findings import Findings
from hourglass.report.pieces.piece import Piece, Pieces, Printed
from hourglass.report.print.figure import Printable
from hourglass.report.print.settings import PrintSettings
from hourglass.report.said import Edited, Said, said
from hourglass.report.statement import ReportStatement, in_order
from hourglass.report.tables import ReportTable


@dataclass(frozen=True, slots=True)
class ComposedFigure:
    """A figure with its note; ``name`` says what it shows, ``number`` its place among all."""

    drawing: Printable
    name: str
    title: str
    note: Said | None
    number: int = 0

    @property
    def caption(self) -> str:
        """What stands under it: "Figure 1. Curves"."""
        return f"Figure {self.number}. {self.title}" if self.number else self.title


@dataclass(frozen=True, slots=True, kw_only=True)
class ComposedPiece:
    """A piece as it is read, in this order."""

    key: str
    title: Said
    paragraphs: tuple[Said, ...]
    tables: tuple[ReportTable, ...]
    figure: ComposedFigure | None
    cautions: tuple[Caution, ...]
    items: tuple[tuple[str, str, str], ...]
    note: Said | None

    def words(self) -> tuple[Said, ...]:
        """All its words that can be edited."""
        figure = None if self.figure is None else self.figure.note
        there = (self.title, *self.paragraphs, figure, self.note)
        return tuple(one for one in there if one is not None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Composed:
    """A report.

    Attributes:
        title, line: what it is called, and whom it tells of.
        lost: words that somebody wrote for a place that is not printed now, by their place.
        millimetres: the width that figures are drawn in.
        version: of the program.
    """

    title: str
    line: str
    pieces: tuple[ComposedPiece, ...]
    lost: Mapping[str, Edited]
    millimetres: int
    version: str = VERSION

    @property
    def tables(self) -> tuple[ReportTable, ...]:
        """All tables, in order."""
        return tuple(table for piece in self.pieces for table in piece.tables)


def composed(found: Findings, statement: ReportStatement, pieces: Pieces) -> Composed:
    """The pieces of the statement whose stage somebody asked for, and that have something to print."""
    by_key = {piece.key: piece for piece in pieces}
    made = []
    for key in in_order(list(by_key), statement.order):
        piece = by_key[key]
        if key in statement.left_out or not piece.there(found):
            continue
        body = piece.render(found)
        if not body.empty:
            made.append(_composed(piece, body, statement, found.looks))
    used = {words.key for piece in made for words in piece.words()}
    return Composed(
        title=statement.title or found.study,
        line=found.cohort.line,
        pieces=tuple(_numbered(made)),
        lost={key: edit for key, edit in statement.words.items() if key not in used},
        millimetres=statement.millimetres,
    )


def _numbered(pieces: Sequence[ComposedPiece]) -> Iterator[ComposedPiece]:
    """The pieces with their tables and figures numbered in the order of the report."""
    tables, figures = count(1), count(1)
    for piece in pieces:
        figure = piece.figure
        yield replace(
            piece,
            tables=tuple(replace(table, number=next(tables)) for table in piece.tables),
            figure=None if figure is None else replace(figure, number=next(figures)),
        )


def _composed(
    piece: Piece, body: Printed, statement: ReportStatement, looks: Sequence[GroupLook]
) -> ComposedPiece:
    def words(place: str, made: str) -> Said | None:
        one = said(f"{piece.key}/{place}", made, statement.words)
        return one if one.text or one.edited else None

    title = said(f"{piece.key}/title", piece.title, statement.words)
    figure = None
    if body.figure is not None:
        settings = PrintSettings(tracks=list(body.figure.tracks), width=statement.millimetres)
        figure = ComposedFigure(
            Printable(body.figure.figure, settings, looks),
            body.figure.figure.name,
            title.text,
            words("figure", body.figure.note),
        )
    paragraphs = [words(f"paragraph-{k}", text) for k, text in enumerate(body.paragraphs)]
    return ComposedPiece(
        key=piece.key,
        title=title,
        paragraphs=tuple(one for one in paragraphs if one is not None),
        tables=body.tables,
        figure=figure,
        cautions=body.cautions,
        items=body.items,
        note=words("note", body.note),
    )
