"""What Prepare shows, typed."""

from hourglass.analysis.prepare.finding_readings import FindingReading
from hourglass.analysis.prepare.ledger import LedgerReading
from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.sentence import Sentence
from hourglass.analysis.shared.typed import Typed
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.table import Kind


class LevelCount(Typed):
    """A level with its number of rows."""

    level: str
    rows: int


class ColumnReading(Typed):
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


class StepReading(Typed):
    """A step and what it did; ``broken`` says why it could do nothing."""

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


class LayoutReading(Typed):
    """A layout the table may have, and why."""

    layout: str
    label: str
    reason: str


class BlockReading(Typed):
    """What must be decided before later stages can show a number."""

    sentence: str
    slot: str | None


class ProposedReading(Typed):
    """A part of the statement that still stands as it was proposed, and why."""

    part: str
    value: str
    because: str


class PrepareResult(Typed):
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
