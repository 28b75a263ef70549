"""What Prepare shows, typed."""

from hourglass.analysis.prepare.finding_views import FindingView
from hourglass.analysis.prepare.ledger import LedgerView
from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.sentence import Sentence
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.table import Kind


class LevelCount(FrozenModel):
    """A level with its number of rows."""

    level: str
    rows: int


class ColumnView(FrozenModel):
    """A column at a glance, with the part it plays."""

    name: str
    label: str
    unit: str
    kind: Kind
    role: str
    distinct: int
    missing: int
    low: str
    high: str
    bins: list[int]
    levels: list[LevelCount]


class StepView(FrozenModel):
    """A step and what it did; ``broken`` gives the reason it could do nothing."""

    id: int
    name: str
    active: bool
    decided: bool
    step: Step
    rows_set_aside: int
    cells_changed: int
    made: str
    note: str
    broken: str


class LayoutView(FrozenModel):
    """A layout the table may have, and why."""

    layout: str
    label: str
    reason: str


class BlockerView(FrozenModel):
    """What must be decided before later stages can show a number."""

    sentence: str
    slot: str | None


class ProposedView(FrozenModel):
    """A part of the statement that still stands as it was proposed, and why."""

    part: str
    value: str
    because: str


class PrepareResult(FrozenModel):
    """Everything that Prepare shows besides the rows themselves."""

    sentence: Sentence
    columns: list[ColumnView]
    proposed: list[ProposedView]
    layouts: list[LayoutView]
    findings: list[FindingView]
    moves_later: bool
    steps: list[StepView]
    ledger: LedgerView
    blocks: list[BlockerView]
    figure: Figure
    drawing: str = ""
    headline: str
