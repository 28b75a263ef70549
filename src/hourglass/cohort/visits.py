"""Whether the rows of a table are visits: a subject's several, each with a time of its own."""

import re
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.code_meanings import meaning_of_word
from hourglass.cohort.profile import profile_of
from hourglass.cohort.proposal.outcome import outcome
from hourglass.cohort.proposal.reasons import Reason
from hourglass.cohort.steps.step import along, keys_of
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
MIN_SUBJECTS, MIN_ROWS, MAX_ROWS = 5, 1.5, 60
ASCENDING = 0.95
MAX_STATES = 20
NUMBERED = re.compile(r"^(.*?)(\d{1,3})(\D*)$")
LOOK = 3
"""The subject is among so many first columns."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Visits:
    """The columns of visits.

    Attributes:
        state: what was seen at each; None where no column holds it.
        events: its values whose words mean that the event had happened.
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
    if table.size < MIN_SUBJECTS * 2:
        return None
    times = [c for c in table.columns if not isinstance(c, TextColumn) and _may_be_time(c)]
    for subject in table.columns[:LOOK]:
        if isinstance(subject, DateColumn) or subject.missing.any():
            continue
        subjects = profile_of(subject).distinct
        if not (subjects >= MIN_SUBJECTS and MIN_ROWS <= table.size / subjects <= MAX_ROWS):
            continue
        key = keys_of(table, [subject.name])
        for time in times:
            if time is not subject and _visited(key, time):
                state, events = _state(table, {subject.name, time.name})
                rows = table.size / subjects
                return Visits(
                    subject=subject.name,
                    time=time.name,
                    state=state,
                    events=events,
                    subjects=subjects,
                    rows=rows,
                )
    return None


def _may_be_time(column: NumberColumn | DateColumn) -> bool:
    if isinstance(column, DateColumn):
        return True
    words = words_of(column.name)
    return clock_unit(column.name) is not None or any(w in VISIT_WORDS for w in words)


def _visited(key: NDArray[np.int64], time: NumberColumn | DateColumn) -> bool:
    """Whether times rise from row to row of a subject, though not from row to row of the file."""
    when = along(time)
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
    """The column that holds what was seen, and which of its words mean that the event had happened."""
    found = outcome(table, besides)
    if not isinstance(found, Reason):
        return None, ()
    column = table.column(found.value)
    words = column.counts() if isinstance(column, TextColumn) else ()
    return found.value, tuple(v for v in words if meaning_of_word(found.value, v) == "event")


@dataclass(frozen=True, slots=True)
class WideVisits:
    """Columns of a time and of a state for each visit, in order."""

    times: tuple[str, ...]
    states: tuple[str, ...]


@once_for_each
def wide_visits_of(table: Table) -> WideVisits | None:
    """The pairs of columns that hold a time and a state for each visit: they are named alike but for a
    number, and the times rise from one to the next."""
    families: dict[str, dict[int, Column]] = {}
    for column in table.columns:
        found = NUMBERED.match(column.name)
        if found is not None:
            stem = f"{found[1]}#{found[3]}".casefold()
            families.setdefault(stem, {})[int(found[2])] = column
    several = [family for family in families.values() if len(family) > 1]
    for times in several:
        ordered = [times[k] for k in sorted(times)]
        if not _rise(ordered):
            continue
        for states in several:
            if states is not times and states.keys() == times.keys() and _are_states(states):
                names = (tuple(of[k].name for k in sorted(times)) for of in (times, states))
                return WideVisits(*names)
    return None


def _rise(columns: list[Column]) -> bool:
    """Whether columns hold times, each later than the one before it."""
    times = [c for c in columns if not isinstance(c, TextColumn) and _may_be_time(c)]
    if len(times) < len(columns) or len({c.kind for c in columns}) > 1:
        return False
    rising = pairs = 0
    for one, other in pairwise(times):
        both = ~one.missing & ~other.missing
        rising += int((along(one)[both] < along(other)[both]).sum())
        pairs += int(both.sum())
    return pairs > 0 and rising >= ASCENDING * pairs


def _are_states(columns: dict[int, Column]) -> bool:
    """Whether columns hold few values, the same in all of them."""
    if len({c.kind for c in columns.values()}) > 1:
        return False
    return all(
        not isinstance(c, DateColumn) and profile_of(c).distinct <= MAX_STATES
        for c in columns.values()
    )
