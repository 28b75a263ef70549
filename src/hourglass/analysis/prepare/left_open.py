"""What the statement leaves open, with what could fill it; and what still stands as it was proposed."""

from typing import Any

from hourglass.analysis.prepare.result import ProposedView
from hourglass.analysis.shared import formatting
from hourglass.cohort.code_meanings import dates_an_event
from hourglass.cohort.derive import Blocker
from hourglass.cohort.proposal.outcome import could_be_outcome
from hourglass.cohort.proposal.propose import proposal
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.table import DateColumn, Table
from hourglass.cohort.visits import visits_of

PARTS = {
    "clock.start": "start",
    "clock.end": "end",
    "clock.events": "event",
    "clock.last_contact": "last contact",
    "clock.column": "time",
    "unit": "unit",
    "late_entry": "delayed entry",
    "outcome": "outcome",
    "subject": "subject",
}
"""What a part of the statement that is proposed is called."""
SLOTS = {"clock.column": "duration", "clock.events": "event", "outcome": "outcome"}
"""The slot of a part that several columns could fill."""


def offered(
    block: Blocker, table: Table, statement: FollowUpStatement, layout_decided: bool
) -> Blocker:
    """A block; where several columns could fill the slot it names them, and where none could be the outcome
    it names what else there is."""
    visits = None if layout_decided else visits_of(table)
    if visits is not None and block.slot == "duration" and not statement.several_rows:
        several = f"The rows are visits, several of each {visits.subject}"
        return Blocker(f"{several}: choose the layout of the table first.", block.slot)
    for left in proposal(table).left_open:
        columns = [name for name in left.columns if name not in statement.spent]
        if SLOTS[left.field] == block.slot and not _held(statement, left.field) and columns:
            could = formatting.listed(columns, "or")
            return Blocker(f"Choose the {PARTS[left.field]}: it could be {could}.", block.slot)
    stated = block.slot == "outcome" and statement.ended == "codes" and statement.outcome is None
    if not stated or could_be_outcome(table, statement.spent):
        return block
    dated = next(
        (c.name for c in table.columns if isinstance(c, DateColumn) and dates_an_event(c)), None
    )
    if dated is not None:
        return Blocker(
            f"No column has codes for how follow-up ended, but {dated} dates an event: choose whoever has "
            f"a date in {dated}.",
            block.slot,
        )
    return Blocker(
        "No column says how follow-up ended. If it ended with the event in every row, choose “all "
        "had the event”; else the file lacks those who were still waiting for it.",
        block.slot,
    )


def still_proposed(table: Table, statement: FollowUpStatement) -> list[ProposedView]:
    """The reasons for what was proposed, as far as they still hold of the statement."""
    found = []
    for reason in proposal(table).reasons:
        if _held(statement, reason.field) == reason.value:
            part = PARTS[reason.field]
            found.append(ProposedView(part=part, value=reason.value, because=reason.because))
    return found


def _held(statement: FollowUpStatement, field: str) -> str | None:
    """What a part of the statement holds: a column or a unit; of several events the first one's column."""
    value: Any = statement
    for part in field.split("."):
        value = getattr(value, part, None)
    if isinstance(value, tuple):
        return value[0].column if value else None
    return None if value is None else str(value)
