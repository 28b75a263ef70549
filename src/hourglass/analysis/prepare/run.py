"""Prepare: what was read, what was noticed, what the statement makes of the rows."""

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from typing import Any, TypeAlias

from hourglass.analysis.prepare.finding_readings import (
    FindingReading,
    Kept,
    finding_readings,
    open_findings,
)
from hourglass.analysis.prepare.follow_up_figure import follow_up_figure
from hourglass.analysis.prepare.follow_up_lines import follow_up_lines
from hourglass.analysis.prepare.ledger import LedgerReading, ledger
from hourglass.analysis.prepare.sentence import follow_up_sentence
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.sentence import Sentence
from hourglass.analysis.shared.typed import Typed
from hourglass.cohort.code_meanings import dates_an_event
from hourglass.cohort.derive import Block, derive
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import Finding
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.layouts import recognise
from hourglass.cohort.profile import profile
from hourglass.cohort.proposal.outcome import could_be_outcome
from hourglass.cohort.proposal.propose import proposal
from hourglass.cohort.statement import BetweenDates, FirstOf, FollowUpStatement
from hourglass.cohort.steps.apply import Step, StepEffect, apply_steps, made_by_steps
from hourglass.cohort.steps.broken import broken_blocks
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.table import DateColumn, Kind, Table
from hourglass.cohort.visits import visits_of
from hourglass.cohort.words import LONGEST_SENTENCE, cut
from hourglass.core.watch import Watch, unwatched

PARTS = {
    "clock.start": "start",
    "clock.end": "end",
    "clock.events": "event",
    "clock.last_contact": "last contact",
    "clock.column": "time",
    "unit": "unit",
    "late_entry": "late entry",
    "outcome": "outcome",
    "subject": "subject",
}
"""What a part of the statement that is proposed is called."""
SLOTS = {"clock.column": "duration", "clock.events": "event", "outcome": "outcome"}
"""The slot of a part that several columns could fill."""


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


Look: TypeAlias = Callable[[], Sequence[Finding]]


def prepare(
    table: Table,
    steps: Sequence[PlacedStep],
    statement: FollowUpStatement,
    kept: Kept,
    today: date | None = None,
    layout_decided: bool = True,
    watch: Watch = unwatched,
    found_once: Callable[[Look], Sequence[Finding]] = lambda look: look(),
) -> PrepareResult:
    """Apply the steps and say what is there.

    Args:
        table: as read from the file.
        steps: in order, those switched off among them.
        statement: the follow-up statement.
        kept: findings that are decided.
        today: the day the file was read.
        layout_decided: whether somebody has said which layout the table has.
        found_once: gives the findings, which it may have already, or else has them looked for.
    """
    active = [placed for placed in steps if placed.active]
    watch("carrying out the steps", 0.1)
    after, effects = apply_steps(table, [placed.step for placed in active])
    watch("forming the cohort", 0.3)
    derived = derive(after, statement)
    cohort = form_cohort(after, statement, derived)
    blocks = (
        []
        if isinstance(cohort, Cohort)
        else [_offered(b, after, statement, layout_decided) for b in cohort]
    )
    blocks += broken_blocks(effects)
    watch("looking for findings", 0.4)
    with ThreadPoolExecutor(1) as beside:
        recognised = beside.submit(lambda: () if layout_decided else recognise(after))
        made = made_by_steps(table, after, effects)
        found = found_once(lambda: find(after, statement, today, made, table, derived))
    guesses = recognised.result()
    findings, moves_later = finding_readings(after, statement, open_findings(found, kept))
    watch("drawing the follow-up", 0.9)
    lines, note = follow_up_lines(after, statement, derived)
    formed = cohort if isinstance(cohort, Cohort) and not blocks else None
    rows = ledger(table, active, effects, statement, formed, derived)
    return PrepareResult(
        sentence=follow_up_sentence(after, statement),
        columns=_columns(after, statement),
        proposed=_proposed(after, statement),
        layouts=[
            LayoutReading(layout=g.key, label=g.label, reason=g.reason)
            for g in (guesses if len(guesses) > 1 else ())
        ],
        findings=findings,
        moves_later=moves_later,
        steps=_steps(steps, effects),
        ledger=rows,
        blocks=[
            BlockReading(sentence=cut(b.sentence, LONGEST_SENTENCE), slot=b.slot) for b in blocks
        ],
        figure=follow_up_figure(lines, note, statement.unit),
        headline=_headline(rows, len(blocks)),
    )


def _offered(
    block: Block, table: Table, statement: FollowUpStatement, layout_decided: bool
) -> Block:
    """A block; where several columns could fill the slot it names them, and where none could be the outcome
    it names what else there is."""
    visits = None if layout_decided else visits_of(table)
    if visits is not None and block.slot == "duration" and not statement.several_rows:
        several = f"The rows are visits, several of each {visits.subject}"
        return Block(f"{several}: choose the layout of the table first.", block.slot)
    for left in proposal(table).left_open:
        columns = [name for name in left.columns if name not in statement.spent]
        if SLOTS[left.field] == block.slot and not _held(statement, left.field) and columns:
            could = wording.listed(columns, "or")
            return Block(f"Choose the {PARTS[left.field]}: it could be {could}.", block.slot)
    asked = block.slot == "outcome" and statement.ended == "codes" and statement.outcome is None
    if not asked or could_be_outcome(table, statement.spent):
        return block
    dated = next(
        (c.name for c in table.columns if isinstance(c, DateColumn) and dates_an_event(c)), None
    )
    if dated is not None:
        return Block(
            f"No column has codes for how follow-up ended, but {dated} dates an event: choose whoever has "
            f"a date in {dated}.",
            block.slot,
        )
    return Block(
        "No column says how follow-up ended. If it ended with the event in every row, choose “everyone "
        "had the event”; else the file lacks those who were still waiting for it.",
        block.slot,
    )


def _proposed(table: Table, statement: FollowUpStatement) -> list[ProposedReading]:
    """The reasons for what was proposed, as far as the statement still says so."""
    found = []
    for reason in proposal(table).reasons:
        if _held(statement, reason.field) == reason.value:
            part = PARTS[reason.field]
            found.append(ProposedReading(part=part, value=reason.value, because=reason.because))
    return found


def _held(statement: FollowUpStatement, field: str) -> str | None:
    """What a part of the statement holds: a column or a unit; of several events the first one's column."""
    value: Any = statement
    for part in field.split("."):
        value = getattr(value, part, None)
    if isinstance(value, tuple):
        return value[0].column if value else None
    return None if value is None else str(value)


def _steps(steps: Sequence[PlacedStep], effects: Sequence[StepEffect]) -> list[StepReading]:
    done = iter(effects)
    found = []
    for placed in steps:
        effect = next(done) if placed.active else StepEffect(name=placed.step.named())
        found.append(
            StepReading(
                id=placed.id,
                name=effect.name,
                active=placed.active,
                decided=placed.decision is not None,
                step=placed.step,
                rows_set_aside=effect.rows_set_aside,
                cells_changed=effect.cells_changed,
                made=effect.made,
                note=effect.note,
                broken=effect.broken,
            )
        )
    return found


def _headline(rows: LedgerReading, blocks: int) -> str:
    if rows.analysed is None:
        return f"{wording.count(blocks, 'things')} to decide"
    made = next((loss.becomes for loss in reversed(rows.lost) if loss.becomes is not None), None)
    return (
        f"{wording.grouped(rows.analysed)} of "
        f"{wording.grouped(rows.read if made is None else made)} rows kept"
    )


def _columns(table: Table, statement: FollowUpStatement) -> list[ColumnReading]:
    roles = {name: role for role, name in _roles(statement) if name is not None}
    return [
        ColumnReading(
            name=p.name,
            label=column.label,
            unit=column.unit,
            kind=p.kind,
            role=roles.get(p.name, ""),
            distinct=p.distinct,
            missing=p.missing,
            low=p.low,
            high=p.high,
            bins=list(p.bins),
            levels=[LevelCount(level=level, rows=n) for level, n in p.levels],
        )
        for p, column in zip(profile(table), table.columns, strict=True)
    ]


def _roles(statement: FollowUpStatement) -> list[tuple[str, str | None]]:
    times: list[tuple[str, str | None]]
    match statement.clock:
        case BetweenDates(start=start, end=end):
            times = [("start", start), ("end", end)]
        case FirstOf(start=start, events=events, last_contact=last):
            times = [("start", start), ("last contact", last)]
            times += [("event", event.column) for event in events]
        case duration:
            times = [("duration", duration.column)]
    ended = {"codes": statement.outcome, "date": statement.event_date, "everyone": None}
    return [
        *times,
        ("outcome", ended[statement.ended] if statement.clock.kind != "first of" else None),
        ("subject", statement.subject),
        ("late entry", statement.late_entry),
        ("count", statement.count),
    ]
