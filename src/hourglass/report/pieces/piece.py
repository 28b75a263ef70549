"""What a piece of the report is."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime

from hourglass.analysis.prepare.describe import DescribeResult
from hourglass.analysis.prepare.run import PrepareResult
from hourglass.analysis.shared.cautions import Caution
from hourglass.analysis.shared.cohort_summary import CohortSummary
from hourglass.analysis.shared.figure.arranging import GroupLook
from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.result import PartResult, StageResult
from hourglass.analysis.shared.statement import StageStatement
from hourglass.report.tables import ReportTable
from hourglass.study.plans.departures import Departure

CURVE_TRACKS = ("survival", "at_risk")
"""The tracks of Estimate or Compare that the figure of curves draws."""


@dataclass(frozen=True, slots=True)
class LoggedDecision:
    """A standing decision as the report tells it."""

    stage: str
    sentence: str
    reason: str
    made_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class DataFile:
    """A file that was read: its bytes, and when and how they became rows."""

    name: str
    sha256: str
    size: int
    rows: int
    how_read: str
    read_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class SealedPlan:
    """The plan that was sealed.

    Attributes:
        at: when, by the seal; ``here``: whether that was in this study, or the plan came sealed.
        placed: when the seal, or the plan that came with it, was put in place in this study.
        before: whether that was before the study's file was read; None where the log does not tell.
        departures: what departs from it.
    """

    at: datetime
    sha256: str
    here: bool
    placed: datetime
    before: bool | None
    departures: tuple[Departure, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Findings:
    """Everything a report is made from.

    Attributes:
        files: those that were read; the first is in use.
        results: those of stages ("model") and of their parts ("model/ranking"); a stage that nobody
            asked for has none.
        statements: what each stage states.
        described: who is in the groups, where a piece prints it.
        looks: how groups are drawn; ``curves``: the stage whose curves are told, blank for either.
        sealed: the plan that was sealed, if any.
        left_out: the pieces that are not printed.
        waiting: the parts that take long and that nobody has had computed, so that they are not printed.
    """

    study: str
    files: tuple[DataFile, ...]
    prepare: PrepareResult
    cohort: CohortSummary
    results: Mapping[str, StageResult | PartResult]
    statements: Mapping[str, StageStatement]
    described: DescribeResult | None
    decisions: tuple[LoggedDecision, ...]
    looks: tuple[GroupLook, ...] = ()
    curves: str = ""
    sealed: SealedPlan | None = None
    left_out: frozenset[str] = frozenset()
    waiting: tuple[str, ...] = ()

    def has(self, key: str) -> bool:
        """Whether there is a result of a stage, or of a part."""
        return key in self.results

    def stage(self, name: str) -> StageResult | None:
        """The result of a stage that has something to show."""
        found = self.results.get(name)
        return found if isinstance(found, StageResult) and found.blank is None else None


@dataclass(frozen=True, slots=True)
class PrintedFigure:
    """Some tracks of a figure, to be drawn, and the note under them."""

    figure: Figure
    tracks: tuple[str, ...]
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Printed:
    """What a piece prints under its heading.

    Attributes:
        method: the statement as a sentence.
        paragraphs: what was found, in words.
        tables: at full precision in their CSV files.
        figure: drawn under them.
        note: in small print at the end.
        items: a list of sentences, each with the reason given for it and what stands beside it.
        cautions: what would mislead.
    """

    method: str = ""
    paragraphs: tuple[str, ...] = ()
    tables: tuple[ReportTable, ...] = ()
    figure: PrintedFigure | None = None
    note: str = ""
    items: tuple[tuple[str, str, str], ...] = ()
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
        render: what it prints.
        needs: the stages (one of them is enough) that must have been asked for; none, if always there.
        parts: the parts of results that it prints from.
        describes: whether it prints who is in the groups.
        offer: what is said of it where its stage has not been opened.
    """

    key: str
    title: str
    words: str
    render: Callable[[Findings], Printed]
    needs: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    describes: bool = False
    offer: str = ""

    def there(self, found: Findings) -> bool:
        """Whether it can be printed."""
        return not self.needs or any(found.has(stage) for stage in self.needs)


Pieces = tuple[Piece, ...]
