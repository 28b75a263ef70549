"""Everything that a report is made from."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import TypeVar

from hourglass.analysis.prepare.describe import DescribeResult
from hourglass.analysis.prepare.result import PrepareResult
from hourglass.analysis.shared.cohort_summary import CohortSummary
from hourglass.analysis.shared.figure.figure_settings import GroupStyle, ShownTrack
from hourglass.analysis.shared.result import PartResult, StageResult
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.records.prepared import RecordCounts
from hourglass.cohort.records.statement import RecordTable
from hourglass.cohort.statement import FollowUpStatement
from hourglass.study.plans.departures import Departure

R = TypeVar("R", bound=StageResult | PartResult)


@dataclass(frozen=True, slots=True)
class LoggedDecision:
    """A standing decision: what it is about, what was decided, and why, in the words of who decided."""

    about: str
    outcome: str
    reason: str
    made_at: datetime


@dataclass(frozen=True, slots=True)
class WaitingPart:
    """A part of a stage that takes long and that nobody has had computed; ``title``: of the part."""

    stage: str
    stage_title: str
    title: str


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
        before: whether that was before the study's file was read; None where the log does not hold it.
        departures: what departs from it.
        stages: those whose statement it holds.
    """

    at: datetime
    sha256: str
    here: bool
    placed: datetime
    before: bool | None
    departures: tuple[Departure, ...]
    stages: frozenset[str] = frozenset()

    def planned(self, stage: str) -> bool:
        """Whether what a stage states is what was planned, before the data were read as far as is known."""
        departs = any(departure.stage == stage for departure in self.departures)
        return self.before is not False and stage in self.stages and not departs


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportInputs:
    """Everything a report is made from.

    Attributes:
        dated: the day on which it was gathered.
        files: those that were read; the first is in use.
        results: those of stages ("model") and of their parts ("model/ranking"); a stage that nobody
            requested has none.
        statements: what each stage states.
        follow_up: how follow-up was made of the rows.
        tables: how the further tables were read, and ``joined``: what became of their rows.
        described: who is in the groups, where a piece prints it.
        tracks: those that each view shows; ``group_styles``: how groups are drawn.
        curves: the stage whose curves are printed, blank for either.
        sealed: the plan that was sealed, if any.
        left_out: the pieces that are not printed, left out or held only by a longer report.
        waiting: the parts that are not printed because they are not computed.
    """

    study: str
    dated: date
    files: tuple[DataFile, ...]
    prepare: PrepareResult
    follow_up: FollowUpStatement
    cohort: CohortSummary
    results: Mapping[str, StageResult | PartResult]
    statements: Mapping[str, StageStatement]
    described: DescribeResult | None
    decisions: tuple[LoggedDecision, ...]
    tracks: Mapping[str, tuple[ShownTrack, ...]] = field(default_factory=dict)
    group_styles: tuple[GroupStyle, ...] = ()
    curves: str = ""
    sealed: SealedPlan | None = None
    left_out: frozenset[str] = frozenset()
    waiting: tuple[WaitingPart, ...] = ()
    tables: tuple[RecordTable, ...] = ()
    joined: tuple[RecordCounts, ...] = ()

    def has(self, key: str) -> bool:
        """Whether there is a result of a stage, or of a part."""
        return key in self.results

    def result(self, key: str, kind: type[R]) -> R | None:
        """The result of a stage, or of a part, by its type; None where it is not there."""
        found = self.results.get(key)
        return found if isinstance(found, kind) else None

    def stage(self, name: str) -> StageResult | None:
        """The result of a stage that has something to show."""
        found = self.results.get(name)
        return found if isinstance(found, StageResult) and found.blank is None else None
