"""Prepare: what was read, what was noticed, what the statement makes of the rows."""

from collections.abc import Sequence

import numpy as np

from hourglass.analysis import wording
from hourglass.analysis.follow_up_sentence import follow_up_sentence
from hourglass.analysis.sentence import Sentence
from hourglass.analysis.typed import Typed
from hourglass.cohort.findings import Choice, Finding, find
from hourglass.cohort.followup import (
    Block,
    Cohort,
    Derivation,
    LedgerLine,
    derive,
    form_cohort,
    set_aside_by_code,
)
from hourglass.cohort.profile import profile
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps import SetAside, Step, apply_steps
from hourglass.cohort.table import Kind, Table

MOST_LINES = 56
MOST_ROWS_LISTED = 400


class LevelCount(Typed):
    """A level with its number of rows."""

    level: str
    rows: int


class ColumnReading(Typed):
    """A column at a glance, with the part it plays."""

    name: str
    kind: Kind
    role: str
    distinct: int
    missing: int
    low: str
    high: str
    bins: list[int]
    levels: list[LevelCount]


class FindingReading(Typed):
    """A finding still to decide; ``row_count`` is the number of rows, ``rows`` the first of them."""

    key: str
    title: str
    why: str
    rows: list[int]
    row_count: int
    columns: list[str]
    choices: list[Choice]


class StepReading(Typed):
    """A step and what it did."""

    name: str
    rows_set_aside: int
    cells_changed: int


class Loss(Typed):
    """Rows lost, and why."""

    why: str
    rows: int


class LedgerReading(Typed):
    """Where the rows went: read, lost for each reason, analysed (null while blocked)."""

    read: int
    lost: list[Loss]
    analysed: int | None


class BlockReading(Typed):
    """What must be decided before later stages can show a number."""

    sentence: str
    slot: str | None


class FollowUpLine(Typed):
    """One row's follow-up in the picture."""

    label: str
    start: float
    end: float
    status: int


class PrepareResult(Typed):
    """Everything that Prepare shows besides the rows themselves."""

    sentence: Sentence
    columns: list[ColumnReading]
    findings: list[FindingReading]
    steps: list[StepReading]
    ledger: LedgerReading
    blocks: list[BlockReading]
    lines: list[FollowUpLine]
    lines_note: str
    time_label: str
    headline: str


def prepare(
    table: Table, steps: Sequence[Step], statement: FollowUpStatement, kept: frozenset[str]
) -> PrepareResult:
    """Apply the steps and say what is there.

    Args:
        table: as read from the file.
        steps: in order.
        statement: the follow-up statement.
        kept: keys of findings that somebody decided to leave as they are.

    Raises:
        BrokenStepError, NoSuchColumnError: when a step does not fit the table.
    """
    after, effects = apply_steps(table, steps)
    cohort = form_cohort(after, statement)
    blocks: tuple[Block, ...] = () if isinstance(cohort, Cohort) else cohort
    findings = [f for f in find(after, statement) if f.key not in kept]
    lines, note = _lines(after, statement)
    ledger = _ledger(table, after, steps, statement, cohort if isinstance(cohort, Cohort) else None)
    return PrepareResult(
        sentence=follow_up_sentence(after, statement),
        columns=_columns(after, statement),
        findings=[_finding(f) for f in findings],
        steps=[StepReading.model_validate(e) for e in effects],
        ledger=ledger,
        blocks=[BlockReading.model_validate(b) for b in blocks],
        lines=lines,
        lines_note=note,
        time_label=f"{statement.unit.capitalize()} of follow-up",
        headline=_headline(ledger, len(blocks)),
    )


def _finding(f: Finding) -> FindingReading:
    return FindingReading(
        key=f.key,
        title=f.title,
        why=f.why,
        rows=list(f.rows[:MOST_ROWS_LISTED]),
        row_count=len(f.rows),
        columns=list(f.columns),
        choices=list(f.choices),
    )


def _headline(ledger: LedgerReading, blocks: int) -> str:
    if ledger.analysed is None:
        return f"{wording.count(blocks, 'things')} to decide"
    return f"{ledger.analysed:,} of {ledger.read:,} rows kept"


def _columns(table: Table, statement: FollowUpStatement) -> list[ColumnReading]:
    roles = {name: role for role, name in _roles(statement) if name is not None}
    return [
        ColumnReading(
            name=p.name,
            kind=p.kind,
            role=roles.get(p.name, ""),
            distinct=p.distinct,
            missing=p.missing,
            low=p.low,
            high=p.high,
            bins=list(p.bins),
            levels=[LevelCount(level=level, rows=n) for level, n in p.levels],
        )
        for p in profile(table)
    ]


def _roles(statement: FollowUpStatement) -> list[tuple[str, str | None]]:
    clock = statement.clock
    times: list[tuple[str, str | None]] = (
        [("start", clock.start), ("end", clock.end)]
        if clock.kind == "dates"
        else [("duration", clock.column)]
    )
    return [
        *times,
        ("outcome", statement.outcome),
        ("subject", statement.subject),
        ("late entry", statement.late_entry),
    ]


def _ledger(
    table: Table,
    after: Table,
    steps: Sequence[Step],
    statement: FollowUpStatement,
    cohort: Cohort | None,
) -> LedgerReading:
    lost: list[LedgerLine] = []
    present = table
    for step in steps:
        if isinstance(step, SetAside):
            smaller = present.without(step.rows)
            lost.append(LedgerLine(step.why, present.size - smaller.size))
            present = smaller
    lost += set_aside_by_code(after, statement)
    return LedgerReading(
        read=table.size,
        lost=[Loss(why=line.label, rows=line.rows) for line in lost if line.rows],
        analysed=None if cohort is None else cohort.table.size,
    )


def _lines(table: Table, statement: FollowUpStatement) -> tuple[list[FollowUpLine], str]:
    """A faithful sample of follow-up lines, longest first: evenly placed in order of time."""
    derived = derive(table, statement)
    if not isinstance(derived, Derivation):
        return [], "Fill the marked words above to see each row's follow-up."
    usable = np.flatnonzero(np.isfinite(derived.time) & (derived.time >= 0))
    order = usable[np.argsort(-derived.time[usable], kind="stable")]
    pick = np.unique(np.linspace(0, order.size - 1, min(MOST_LINES, order.size)).round())
    chosen = order[pick.astype(int)]
    named = statement.subject if table.has(statement.subject) else None
    column = None if named is None else table.column(named)
    status = {"event": 1, "competing": 2, "censored": 0, "set aside": -2}
    lines = []
    for row in chosen:
        given = statement.meanings.get(derived.codes[derived.code_of[row]])
        label = column.cell(int(row)) if column is not None else f"row {table.numbers[row]}"
        lines.append(
            FollowUpLine(
                label=label,
                start=max(float(derived.entry[row]), 0.0),
                end=float(derived.time[row]),
                status=-1 if given is None else status[given.meaning],
            )
        )
    if chosen.size == order.size:
        return lines, f"All {order.size:,} rows, longest first."
    return lines, f"{chosen.size} of {order.size:,} rows, evenly chosen from longest to shortest."
