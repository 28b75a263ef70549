"""Making tables, cohorts and demo studies for tests, through the program's own front doors."""

from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.cell import Cell
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.figure.marks import AnyMark
from hourglass.analysis.shared.result import StageResult
from hourglass.analysis.shared.sections import Section, TimedTable
from hourglass.analysis.shared.sections import Table as SectionTable
from hourglass.analysis.shared.stage import stage_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import steps_for
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.reading.read import read
from hourglass.cohort.statement import CodeMeaning, Duration, FollowUpStatement
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.table import Table
from hourglass.study.demos import demo_steps, demos
from hourglass.study.place import DEMO

MEANINGS = {
    "1": CodeMeaning(meaning="event"),
    "0": CodeMeaning(meaning="censored"),
    "2": CodeMeaning(meaning="competing", name="something else"),
}

PLANNED_FOLLOW_UP = {
    "clock": {"kind": "duration", "column": "t"},
    "outcome": "s",
    "meanings": {"1": {"meaning": "event"}, "0": {"meaning": "censored"}},
}
"""As a plan written by hand states it."""

STUDY = {"estimate": EstimateStatement()}
"""What every stage takes of Estimate, where nobody has stated anything."""


def table(text: str) -> Table:
    """A table from comma-separated text."""
    return read(text.encode()).table


def timed(**changes: object) -> FollowUpStatement:
    """A statement for columns ``t`` (months) and ``s`` (1 event, 0 censored, 2 competing)."""
    start = FollowUpStatement(clock=Duration(column="t"), outcome="s", meanings=MEANINGS)
    return start.model_copy(update=changes)


def cohort(text: str, **changes: object) -> Cohort:
    """A cohort from text with columns ``t`` and ``s``; fails if something blocks it."""
    formed = form_cohort(table(text), timed(**changes))
    assert isinstance(formed, Cohort), formed
    return formed


def cells(table: Table, name: str, count: int | None = None) -> list[str]:
    """The first cells of a column, or all, as they are written."""
    column = table.column(name)
    return [column.cell(k) for k in range(table.size if count is None else count)]


def demo_table(key: str) -> Table:
    """A demo's table as read."""
    return read((DEMO / demos()[key]["file"]).read_bytes()).table


def demo_follow_up(key: str) -> FollowUpStatement:
    """A demo's follow-up statement."""
    return FollowUpStatement.model_validate(demos()[key]["follow_up"])


def demo_cohort(key: str) -> Cohort:
    """A demo's cohort, its decisions carried out."""
    statement, now = demo_follow_up(key), demo_table(key)
    for decision in demos()[key].get("decisions", []):
        finding = next(f for f in find(now, statement) if f.key.startswith(decision["finding"]))
        now, _ = apply_steps(now, steps_for(finding, decision["choice"], ()))
    now, _ = apply_steps(now, [p.step for p in demo_steps(demos()[key])])
    formed = form_cohort(now, statement)
    assert isinstance(formed, Cohort), formed
    return formed


def default_statement(stage: str, cohort: Cohort) -> StageStatement:
    """What a stage states before anybody has changed its statement."""
    return stage_of(STAGES, stage).default(cohort)


def marks_of(track: Track, kind: str) -> list[AnyMark]:
    """The marks of a kind that a track draws."""
    return [mark for mark in track.marks if mark.kind == kind]


def section(found: StageResult, id: str) -> Section | None:
    """A section of a result, if it is there."""
    return next((one for one in found.sections if one.id == id), None)


def timed_table(found: StageResult) -> TimedTable:
    """The table of a result that follows the sand line."""
    blocks = (block for section in found.sections for block in section.blocks)
    return next(block for block in blocks if isinstance(block, TimedTable))


def all_cells(found: StageResult) -> list[Cell]:
    """Every cell of a result's tables."""
    blocks = [block for section in found.sections for block in section.blocks]
    tables = [block for block in blocks if isinstance(block, SectionTable)]
    return [cell for one in tables for row in one.rows for cell in row]
