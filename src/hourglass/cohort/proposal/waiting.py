"""Slots of a follow-up statement that waited for a column, and what fills them once a step has made it."""

from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.statement import (
    UNSTATED,
    BetweenDates,
    Clock,
    Duration,
    FirstOf,
    FollowUpStatement,
)
from hourglass.cohort.table import Table


def with_waiting_filled(
    statement: FollowUpStatement, before: Table, after: Table
) -> FollowUpStatement:
    """A statement whose open slots hold what is proposed for the table after some steps.

    What somebody has chosen stays; only columns that the steps made or changed are taken.
    """
    if before.columns == after.columns:
        return statement
    new = frozenset(
        c.name for c in after.columns if not before.has(c.name) or before.column(c.name) is not c
    )
    if not _clock_waits(statement.clock) and not _outcome_waits(statement):
        return statement
    found = propose(after)
    filled: dict[str, object] = {}
    if (
        _clock_waits(statement.clock)
        and not _clock_waits(found.clock)
        and _agree(statement.clock, found.clock)
        and new & found.model_copy(update={"outcome": None, "subject": None}).spent
    ):
        filled |= {"clock": found.clock, "late_entry": statement.late_entry or found.late_entry}
        if found.unit != UNSTATED:
            filled["unit"] = found.unit
        elif isinstance(found.clock, Duration) and not isinstance(statement.clock, Duration):
            filled["unit"] = UNSTATED
    if _outcome_waits(statement) and found.outcome in new:
        filled["outcome"] = found.outcome
    return statement.model_copy(update=filled) if filled else statement


def _clock_waits(clock: Clock) -> bool:
    match clock:
        case Duration(column=column):
            return column is None
        case BetweenDates(start=start, end=end):
            return start is None or end is None
        case FirstOf(start=start, events=events):
            return start is None or not events


def _outcome_waits(statement: FollowUpStatement) -> bool:
    return (
        statement.ended == "codes"
        and statement.outcome is None
        and statement.clock.kind != "first of"
    )


def _agree(chosen: Clock, proposed: Clock) -> bool:
    """Whether a clock keeps all that another has already."""
    start = None if isinstance(chosen, Duration) else chosen.start
    end = chosen.end if isinstance(chosen, BetweenDates) else None
    if isinstance(proposed, Duration):
        return start is None and end is None
    ends = (
        (proposed.end,)
        if isinstance(proposed, BetweenDates)
        else (proposed.last_contact, *(event.column for event in proposed.events))
    )
    return start in (None, proposed.start) and (end is None or end in ends)
