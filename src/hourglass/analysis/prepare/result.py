"""What Prepare shows, typed."""

from hourglass.analysis.prepare.finding_readings import FindingReading
from hourglass.analysis.prepare.ledger import LedgerReading
from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.sentence import Sentence
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.table import Kind


class LevelCount(FrozenModel):
    """A level with its number of rows."""

    level: str
    rows: int


class ColumnReading(FrozenModel):
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


class StepReading(FrozenModel):
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


class LayoutReading(FrozenModel):
    """A layout the table may have, and why."""

    layout: str
    label: str
    reason: str


class BlockReading(FrozenModel):
    """What must be decided before later stages can show a number."""

    sentence: str
    slot: str | None


class ProposedReading(FrozenModel):
    """A part of the statement that still stands as it was proposed, and why."""

    part: str
    value: str
    because: str


class PrepareResult(FrozenModel):
    """Everything that Prepare shows besides the rows themselves."""

    sentence: Sentence
    columns: list[ColumnReading]
    proposed: list[ProposedReading]
    layouts: list[LayoutReading]
    findings: list[FindingReading]
    moves_later: bool
    steps: list[StepReading]
    ledger: LedgerReading
    blocks: list[BlockReading]
    figure: Figure
    drawing: str = ""
    headline: str
