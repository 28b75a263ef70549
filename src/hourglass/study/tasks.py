"""Tasks: what an executor runs for a study. They are module-level, so that they can be handed on."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import partial
from typing import Any

from hourglass.analysis.extract_comparison import ExtractComparison, compare_extracts
from hourglass.analysis.extract_numbers import ExtractSide, OpenedStage, side_of
from hourglass.analysis.prepare.describe import DescribeResult, describe
from hourglass.analysis.prepare.finding_effects import moves_of
from hourglass.analysis.prepare.finding_views import MoveView, open_findings
from hourglass.analysis.prepare.result import PrepareResult
from hourglass.analysis.prepare.run import prepare
from hourglass.analysis.prepare.step_preview import StepPreview, preview_step
from hourglass.analysis.shared.figure.drawing import drawn
from hourglass.analysis.shared.figure.thumbnail import thumbnail
from hourglass.analysis.shared.input import COHORT, Missing
from hourglass.analysis.shared.sent import Drawing, sent
from hourglass.analysis.shared.stage import Stage
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.workings import ExplainedNumber, Workings
from hourglass.cohort.carry import carry_over
from hourglass.cohort.derive import Blocker
from hourglass.cohort.followup import Cohort
from hourglass.cohort.records.joined import JoinedCohort
from hourglass.cohort.records.prepared import RecordCounts
from hourglass.cohort.steps.apply import Made, Step, apply_steps, made_by_formulas
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.steps.names import RenameColumn
from hourglass.core.progress import ProgressCallback
from hourglass.study.findings import findings_of, found_once
from hourglass.study.made import Shown
from hourglass.study.source import Source
from hourglass.study.turns import Turn


def input_of(source: Source, stage: Stage) -> Any:
    """The input of a stage, which must be there."""
    found = stage.input.load(source)
    assert not isinstance(found, Missing)
    return found


def formed(source: Source) -> Cohort:
    """The cohort, which Prepare must have formed."""
    found = COHORT.load(source)
    assert not isinstance(found, Missing)
    return found


class OfSource:
    """What is done on the rows of a source, in the turn that they give it."""

    __slots__ = ()
    source: Source

    @property
    def turn(self) -> Turn:
        """Its turn."""
        return self.source.turn()


@dataclass(frozen=True, slots=True)
class MakeStage(OfSource):
    """How the result of a stage, or of one of its parts, is made."""

    source: Source
    stage: Stage
    part: str
    statements: Mapping[str, StageStatement]

    @property
    def turn(self) -> Turn:
        """Its turn; what takes its time is a part."""
        return self.source.turn(long=bool(self.part))

    def compute(self, progress: ProgressCallback) -> Any:
        """Its numbers."""
        value = input_of(self.source, self.stage)
        return self.stage.numbers_of(self.part).of(value, self.statements, progress)

    def show(self, numbers: Any, drawing: str) -> Shown:
        """What is shown of them."""
        value = input_of(self.source, self.stage)
        if self.part:
            brought = self.stage.part(self.part).show(numbers, value, self.statements)
            return Shown(result=brought, body=brought.model_dump_json().encode())
        found = self.stage.show(numbers, value, self.statements)
        light, whole = sent(found, drawing)
        return Shown(
            result=found,
            body=light.model_dump_json().encode(),
            headline=found.headline,
            mark=self.stage.mark(found),
            drawing=whole,
            thumbnail=thumbnail(found.figure),
        )


@dataclass(frozen=True, slots=True)
class MakePrepare(OfSource):
    """How what Prepare shows is made."""

    source: Source
    steps: tuple[PlacedStep, ...]
    kept: Mapping[str, int]
    today: date
    layout_decided: bool

    def compute(self, progress: ProgressCallback) -> PrepareResult:
        """Apply the steps, form the cohort, look for findings."""
        return prepare(
            self.source.table(),
            self.steps,
            self.source.follow_up,
            self.kept,
            self.today,
            self.layout_decided,
            progress,
            partial(found_once, self.source, self.today),
        )

    def show(self, numbers: PrepareResult, drawing: str) -> Shown:
        """What is shown of it."""
        undecided = len(numbers.findings)
        light = numbers.model_copy(update={"figure": drawn(numbers.figure), "drawing": drawing})
        return Shown(
            result=numbers,
            body=light.model_dump_json().encode(),
            headline=numbers.headline,
            mark=f"{undecided} to decide" if undecided else "",
            drawing=Drawing(figure=numbers.figure),
        )


@dataclass(frozen=True, slots=True)
class RunWorkings(OfSource):
    """Work a figure out."""

    source: Source
    stage: Stage
    figure: ExplainedNumber
    statements: Mapping[str, StageStatement]
    about: Any

    def __call__(self, progress: ProgressCallback) -> Workings:
        progress("working it out", 0.1)
        return self.figure.work(input_of(self.source, self.stage), self.statements, self.about)


@dataclass(frozen=True, slots=True)
class RunFormulas(OfSource):
    """Work out the formulas among the steps."""

    source: Source

    def __call__(self, progress: ProgressCallback) -> dict[int, Made]:
        return made_by_formulas(self.source.table(), self.source.steps, progress)


@dataclass(frozen=True, slots=True)
class RunPreview(OfSource):
    """Try a step on the table as the steps of the source leave it."""

    source: Source
    step: Step

    def __call__(self, progress: ProgressCallback) -> StepPreview:
        progress("trying the step", 0.0)
        return preview_step(self.source.after_steps(), self.step, self.source.follow_up, progress)


@dataclass(frozen=True, slots=True)
class RunMoves(OfSource):
    """Work out what each choice about a finding does to the median."""

    source: Source
    kept: Mapping[str, int]
    today: date

    def __call__(self, progress: ProgressCallback) -> list[MoveView]:
        progress("looking for findings", 0.0)
        found = findings_of(self.source, self.today)
        after, statement = self.source.after_steps(), self.source.follow_up
        moves = moves_of(after, statement, open_findings(found, self.kept), progress)
        return [
            MoveView(finding=finding, choice=choice, words=move.words)
            for finding, choices in moves.items()
            for choice, move in choices.items()
        ]


@dataclass(frozen=True, slots=True)
class RunDescribe(OfSource):
    """Describe the cohort by the levels of a column."""

    source: Source
    by: str | None

    def __call__(self, progress: ProgressCallback) -> DescribeResult:
        return describe(formed(self.source), self.by, progress)


@dataclass(frozen=True, slots=True)
class CarriedOver:
    """The steps of a data extract carried over to a new one, both sides, and what was not found again."""

    steps: list[PlacedStep]
    before: ExtractSide
    after: ExtractSide
    not_found: list[str]


def carried_over(
    source: Source, steps: Sequence[PlacedStep], new: Source, renamed: Sequence[RenameColumn] = ()
) -> CarriedOver:
    """Carry steps over; ``new`` holds the table of the new data extract, ``renamed`` gives its columns
    the names that they had before."""
    old, named = source.table(), apply_steps(new.table(), renamed)[0]
    carried, not_found = carry_over(steps, old, named, source.follow_up.subject)
    before = ExtractSide(old, *source.applied(), tuple(p.step for p in steps if p.active))
    after = side_of(named, [p.step for p in carried if p.active])
    return CarriedOver(before_them(renamed, carried), before, after, not_found)


def before_them(renamed: Sequence[RenameColumn], carried: Sequence[PlacedStep]) -> list[PlacedStep]:
    """The steps that rename columns, and after them those carried over."""
    return [*(PlacedStep(step=step) for step in renamed), *carried]


@dataclass(frozen=True, slots=True)
class RunExtractComparison(OfSource):
    """Set a new data extract beside the one it would take the place of."""

    source: Source
    steps: tuple[PlacedStep, ...]
    new: Source
    opened: tuple[OpenedStage, ...]
    renamed: tuple[RenameColumn, ...] = ()

    def __call__(self, progress: ProgressCallback) -> ExtractComparison:
        progress("finding the rows again", 0.05)
        carried = carried_over(self.source, self.steps, self.new, self.renamed)
        return compare_extracts(
            carried.before,
            carried.after,
            self.source.follow_up,
            self.opened,
            carried.not_found,
            progress,
        )


@dataclass(frozen=True, slots=True)
class TableCounts:
    """What became of the rows of further tables, or what must be decided before they are joined.

    ``pieces`` is how many rows the cohort has, once they are parted where covariates change; ``prevalent``
    how many subjects have a record of the event at or before entry, ``in_gap`` how many their first in a gap.
    """

    counts: tuple[RecordCounts, ...]
    blocked: tuple[Blocker, ...] = ()
    pieces: int = 0
    prevalent: int = 0
    in_gap: int = 0


@dataclass(frozen=True, slots=True)
class RunTableCounts(OfSource):
    """Join the further tables."""

    source: Source

    def __call__(self, progress: ProgressCallback) -> TableCounts:
        progress("joining the tables", 0.0)
        found = self.source.joined()
        if not isinstance(found, JoinedCohort):
            return TableCounts((), found)
        return TableCounts(
            found.counts,
            pieces=found.cohort.table.size,
            prevalent=found.prevalent,
            in_gap=found.in_gap,
        )
