"""What a piece of the report is."""

from collections.abc import Callable
from dataclasses import dataclass

from hourglass.analysis.shared.cautions import Caution
from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.cited import Paragraph
from hourglass.report.statement import Length
from hourglass.report.tables import ReportTable

CURVE_TRACKS = ("survival", "at_risk")
"""The tracks of Estimate or Compare that the figure of curves draws."""


@dataclass(frozen=True, slots=True)
class PrintedFigure:
    """Some tracks of a figure, to be drawn.

    ``title`` stands in its caption, the note under it; ``key`` names its file, blank as the piece; ``height``
    is a share of its width, None for as high as its tracks need.
    """

    figure: Figure
    tracks: tuple[str, ...]
    title: str
    note: str = ""
    key: str = ""
    height: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Printed:
    """What a piece prints under its heading.

    Attributes:
        paragraphs: what was found, in words.
        shows: what its tables and figure show this time, where that differs from report to report.
        tables: at full precision in their CSV files.
        figure: drawn under them.
        note: in small print at the end.
        items: a numbered list.
        cautions: what would mislead.
    """

    paragraphs: tuple[Paragraph, ...] = ()
    shows: str = ""
    tables: tuple[ReportTable, ...] = ()
    figure: PrintedFigure | None = None
    note: str = ""
    items: tuple[str, ...] = ()
    cautions: tuple[Caution, ...] = ()

    @property
    def empty(self) -> bool:
        """Whether there is nothing to print."""
        return self == Printed()


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """A piece of the report.

    Attributes:
        key: its name in statements and addresses; ``title``: its heading.
        words: what it is called in the report's sentence.
        shows: what its tables and figures show, where the report refers to them by number.
        shortest: the shortest length of a report that holds it.
        render: what it prints.
        uses: stages whose results it prints, too, where somebody has opened them.
        needs: the stages (one of them is enough) that must have been requested; none, if always there.
        parts: the parts of results that it prints from.
        sections: those of results that it prints.
        describes: whether it prints who is in the groups.
        offer: the sentence about it where its stage has not been opened.
    """

    key: str
    title: str
    words: str
    shows: str = ""
    shortest: Length = "complete"
    render: Callable[[ReportInputs], Printed]
    needs: tuple[str, ...] = ()
    uses: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    sections: tuple[SectionId, ...] = ()
    describes: bool = False
    offer: str = ""

    @property
    def stages(self) -> tuple[str, ...]:
        """The stages whose results it may print."""
        return self.needs + self.uses

    def there(self, found: ReportInputs) -> bool:
        """Whether it can be printed."""
        return not self.needs or any(found.has(stage) for stage in self.needs)


Pieces = tuple[Piece, ...]
