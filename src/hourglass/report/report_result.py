"""The report as it crosses the edge: composed, so that it can be arranged and its words edited."""

from hourglass.analysis.shared.cautions import Caution
from hourglass.analysis.shared.cell import Cell
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.sentence import Sentence
from hourglass.report.checklist import PointView


class Offer(FrozenModel):
    """What is not printed, because nobody has opened its stage, or has had it computed."""

    stage: str
    stage_title: str
    sentence: str


class NamedTable(FrozenModel):
    """A table of the report that can be saved."""

    key: str
    title: str


class NamedForm(FrozenModel):
    """A form in which the report can be saved: the ending of its file, and what it is called."""

    key: str
    words: str


class PieceSource(FrozenModel):
    """A stage whose results a piece, or a sentence of it, is made from."""

    stage: str
    title: str


class SentenceView(FrozenModel):
    """A sentence of a paragraph, with the stages whose results it is made from."""

    text: str
    sources: list[PieceSource]


class EditableTextView(FrozenModel):
    """Words that can be edited in place.

    Attributes:
        key: their place; ``text``: as they are read, ``made``: as the results word them.
        edited: whether somebody wrote them.
        doubt: what must be read again, in a sentence; blank where nothing must.
        sentences: those of a paragraph that the results make; empty for other words.
    """

    key: str
    text: str
    made: str
    edited: bool
    doubt: str
    sentences: list[SentenceView]


class TableView(FrozenModel):
    """A table with its note; ``wordy`` marks the columns that hold words."""

    key: str
    caption: str
    head: list[str]
    wordy: list[bool]
    rows: list[list[Cell]]
    note: EditableTextView | None


class FigureView(FrozenModel):
    """A figure, drawn as SVG with its fonts; ``name`` states what it shows."""

    svg: str
    name: str
    caption: str
    note: EditableTextView | None


class PieceView(FrozenModel):
    """A piece as it is read, in this order.

    Attributes:
        refers: ends its last paragraph.
        sources: the stages whose results it is made from.
    """

    key: str
    title: EditableTextView
    paragraphs: list[EditableTextView]
    refers: str
    sources: list[PieceSource]
    tables: list[TableView]
    figure: FigureView | None
    cautions: list[Caution]
    items: list[str]
    note: EditableTextView | None


class LeftOut(FrozenModel):
    """A piece that somebody left out, and could put back."""

    key: str
    title: str


class LostWords(FrozenModel):
    """Words that somebody wrote for a place that is not printed now."""

    key: str
    text: str


class ReportResult(FrozenModel):
    """The report's statement and pieces, and what could be added or must be read again.

    ``order`` are the keys of all pieces as they stand, printed or not.
    """

    sentence: Sentence
    title: str
    line: str
    pieces: list[PieceView]
    order: list[str]
    left_out: list[LeftOut]
    lost: list[LostWords]
    checklist: list[PointView]
    forms: list[NamedForm]
    tables: list[NamedTable]
    offers: list[Offer]
    headline: str
