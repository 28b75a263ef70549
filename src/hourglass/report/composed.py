"""The report composed: its pieces in order, their words as they are read, their figures to be drawn."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from itertools import count

from hourglass import VERSION
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cautions import Caution
from hourglass.analysis.shared.figure.figure_settings import GroupStyle
from hourglass.report.editable_text import EditableText, Edited, editable_paragraph, editable_text
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.piece import Piece, Pieces, Printed
from hourglass.report.print.figure import Printable
from hourglass.report.print.settings import PrintSettings
from hourglass.report.statement import ReportStatement, in_order
from hourglass.report.tables import ReportTable


@dataclass(frozen=True, slots=True)
class ComposedFigure:
    """A figure with its note.

    Attributes:
        key: the name of its file; ``number``: its place among all.
        name: what it shows, for who cannot see it; ``title``: the same, short.
    """

    key: str
    drawing: Printable
    name: str
    title: str
    note: EditableText | None
    number: int = 0

    @property
    def caption(self) -> str:
        """What stands under it: "Figure 1. Curves"."""
        return f"Figure {self.number}. {self.title}" if self.number else self.title


@dataclass(frozen=True, slots=True, kw_only=True)
class ComposedPiece:
    """A piece as it is read, in this order.

    Attributes:
        tables: with their notes as they are read; ``table_notes`` are these, null where there is none.
        in_files: tables that are only saved: what they hold is in the paragraphs.
    """

    key: str
    stages: tuple[str, ...]
    title: EditableText
    paragraphs: tuple[EditableText, ...]
    shows: str
    tables: tuple[ReportTable, ...]
    table_notes: tuple[EditableText | None, ...]
    in_files: tuple[ReportTable, ...]
    figure: ComposedFigure | None
    cautions: tuple[Caution, ...]
    items: tuple[str, ...]
    note: EditableText | None

    @property
    def refers(self) -> str:
        """The sentence after its paragraphs that refers to its tables and figure by number."""
        tables, figure = [table.number for table in self.tables], self.figure
        between = "and" if len(tables) == 2 else "to"
        where = [
            *([f"Table {tables[0]}"] if len(tables) == 1 else []),
            *([f"Tables {tables[0]} {between} {tables[-1]}"] if len(tables) > 1 else []),
            *([] if figure is None else [f"Figure {figure.number}"]),
        ]
        if not where or not self.shows:
            return ""
        verb = "shows" if len(tables) + (figure is not None) == 1 else "show"
        return f"{formatting.listed(where)} {verb} {self.shows}."

    @property
    def running_text(self) -> tuple[str, ...]:
        """Its paragraphs as they are read; the last refers to its tables and figure."""
        texts = [one.text for one in self.paragraphs]
        if self.refers:
            texts = [*texts[:-1], f"{texts[-1]} {self.refers}" if texts else self.refers]
        return tuple(texts)

    def words(self) -> tuple[EditableText, ...]:
        """All its words that can be edited."""
        figure = None if self.figure is None else self.figure.note
        there = (self.title, *self.paragraphs, *self.table_notes, figure, self.note)
        return tuple(one for one in there if one is not None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Composed:
    """A report.

    Attributes:
        title, line: what it is called, and whom it is about.
        lost: words that somebody wrote for a place that is not printed now, by their place.
        millimetres: the width that figures are drawn in.
        dated: the day on which it is made.
        version: of the program.
    """

    title: str
    line: str
    pieces: tuple[ComposedPiece, ...]
    lost: Mapping[str, Edited]
    millimetres: int
    dated: date
    version: str = VERSION

    @property
    def made_on(self) -> str:
        """The day in words."""
        return f"{self.dated:%-d %B %Y}"

    @property
    def tables(self) -> tuple[ReportTable, ...]:
        """All tables that can be saved, in order."""
        return tuple(table for piece in self.pieces for table in (*piece.tables, *piece.in_files))


def composed(found: ReportInputs, statement: ReportStatement, pieces: Pieces) -> Composed:
    """The pieces that the statement holds, whose stage has been opened, and that have something to print."""
    by_key = {piece.key: piece for piece in pieces}
    made = []
    for key in in_order(list(by_key), statement.order):
        piece = by_key[key]
        if not statement.holds(key, piece.shortest) or not piece.there(found):
            continue
        body = piece.render(found)
        if not body.empty:
            made.append(_composed(piece, body, statement, found.group_styles))
    used = {words.key for piece in made for words in piece.words()}
    return Composed(
        title=statement.title or found.study,
        line=found.cohort.line,
        pieces=tuple(_numbered(made)),
        lost={key: edit for key, edit in statement.words.items() if key not in used},
        millimetres=statement.millimetres,
        dated=found.dated,
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
    piece: Piece, body: Printed, statement: ReportStatement, group_styles: Sequence[GroupStyle]
) -> ComposedPiece:
    def words(place: str, made: str) -> EditableText | None:
        one = editable_text(f"{piece.key}/{place}", made, statement.words)
        return one if one.text or one.edited else None

    title = editable_text(f"{piece.key}/title", piece.title, statement.words)
    figure = None
    if body.figure is not None:
        wide, share = statement.millimetres, body.figure.height
        high = None if share is None else share * wide
        settings = PrintSettings(tracks=list(body.figure.tracks), width=wide, height=high)
        figure = ComposedFigure(
            key=body.figure.key or piece.key,
            drawing=Printable(body.figure.figure, settings, group_styles),
            name=body.figure.figure.name,
            title=body.figure.title,
            note=words("figure", body.figure.note),
        )
    paragraphs = [
        editable_paragraph(f"{piece.key}/paragraph-{k}", made, statement.words)
        for k, made in enumerate(body.paragraphs)
    ]
    tables = [table for table in body.tables if not table.in_words]
    notes = [words(f"table-{table.key}", table.note) for table in tables]
    return ComposedPiece(
        key=piece.key,
        stages=piece.stages,
        title=title,
        paragraphs=tuple(one for one in paragraphs if one.text or one.edited),
        shows=body.shows or piece.shows,
        tables=tuple(
            replace(table, note="" if note is None else note.text)
            for table, note in zip(tables, notes, strict=True)
        ),
        table_notes=tuple(notes),
        in_files=tuple(table for table in body.tables if table.in_words),
        figure=figure,
        cautions=body.cautions,
        items=body.items,
        note=words("note", body.note),
    )
