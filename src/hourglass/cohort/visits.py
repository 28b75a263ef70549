"""Whether the rows of a table are visits: a subject's several, each with a time of its own."""

from dataclasses import dataclass

import numpy as np

from hourglass.cohort.code_meanings import said_by_word
from hourglass.cohort.profile import profile_of
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.table import (
    Column,
    DateColumn,
    NumberColumn,
    Table,
    TextColumn,
    once_for_each,
)
from hourglass.cohort.units import clock_unit, words_of

VISIT_WORDS = (
    "visit", "day", "week", "month", "year", "time", "date", "hour", "wave", "seen", "inspection", "round",
    "examined", "followup", "t",
)  # fmt: skip
STATE_WORDS = (
    "state",
    "status",
    "outcome",
    "event",
    "alive",
    "dead",
    "died",
    "condition",
    "result",
)
FEWEST_SUBJECTS, FEWEST_ROWS, MOST_ROWS = 5, 1.5, 60
ASCENDING = 0.95
MOST_STATES = 20
LOOK = 3
"""The subject is among so many first columns."""


@dataclass(frozen=True, slots=True)
class Visits:
    """The columns of visits.

    Attributes:
        state: what was seen at each; None where no column says.
        events: its values whose words say that the event had happened.
        subjects: how many there are; ``rows``: visits of a subject, on average.
    """

    subject: str
    time: str
    state: str | None
    events: tuple[str, ...]
    subjects: int
    rows: float


@once_for_each
def visits_of(table: Table) -> Visits | None:
    """The visits that the rows are; None where nothing speaks for it."""
    if table.size < FEWEST_SUBJECTS * 2:
        return None
    times = [c for c in table.columns if _may_be_time(c)]
    for subject in table.columns[:LOOK]:
        if isinstance(subject, DateColumn) or subject.missing.any():
            continue
        subjects = profile_of(subject).distinct
        if not (subjects >= FEWEST_SUBJECTS and FEWEST_ROWS <= table.size / subjects <= MOST_ROWS):
            continue
        key = keys_of(table, [subject.name])
        for time in times:
            if time is not subject and _visited(key, time):
                state, events = _state(table, {subject.name, time.name})
                rows = table.size / subjects
                return Visits(subject.name, time.name, state, events, subjects, rows)
    return None


def _may_be_time(column: Column) -> bool:
    if isinstance(column, DateColumn):
        return True
    if not isinstance(column, NumberColumn):
        return False
    words = words_of(column.name)
    return clock_unit(column.name) is not None or any(w in VISIT_WORDS for w in words)


def _visited(key: np.ndarray, time: NumberColumn | DateColumn | Column) -> bool:
    """Whether times rise from row to row of a subject, though not from row to row of the file."""
    assert isinstance(time, NumberColumn | DateColumn)
    when = time.values if isinstance(time, NumberColumn) else time.microseconds
    known = np.isfinite(when)
    if known.mean() < ASCENDING:
        return False
    order = np.argsort(key, kind="stable")
    same = key[order][1:] == key[order][:-1]
    with np.errstate(invalid="ignore"):
        rises = when[order][1:] > when[order][:-1]
        in_file = when[1:] >= when[:-1]
    return bool(same.any() and rises[same].mean() >= ASCENDING and in_file.mean() < ASCENDING)


def _state(table: Table, besides: set[str]) -> tuple[str | None, tuple[str, ...]]:
    """The column that says what was seen, and which of its words say that the event had happened."""
    able = [
        c for c in table.columns
        if c.name not in besides and not isinstance(c, DateColumn)
        and 2 <= profile_of(c).distinct <= MOST_STATES
    ]  # fmt: skip
    named = [c for c in able if any(w.startswith(STATE_WORDS) for w in words_of(c.name))]
    for column in named or able:
        if isinstance(column, TextColumn):
            events = tuple(v for v in column.counts() if said_by_word(column.name, v) == "event")
            if events or column in named:
                return column.name, events
        elif column in named:
            return column.name, ()
    return None, ()
