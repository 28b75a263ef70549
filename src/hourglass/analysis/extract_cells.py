"""The cells that a new data extract holds otherwise, those that take away what was known apart."""

import numpy as np
from numpy.typing import NDArray

from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.derive import outcome_codes
from hourglass.cohort.statement import BetweenDates, Duration, FirstOf, FollowUpStatement
from hourglass.cohort.table import Column, DateColumn, NumberColumn, Table, TextColumn

MAX_SHOWN = 500


class ChangedCell(FrozenModel):
    """A cell that a subject's row now holds otherwise."""

    who: str
    column: str
    before: str
    after: str


class GraverChange(ChangedCell):
    """A cell that takes away what was known before: an event, or time followed."""

    what: str


def shown_key(key: str) -> str:
    """What a row is known by, as it is shown."""
    text, _, nth = key.partition("\x1e")
    shown = ", ".join(text.split("\x1f"))[:120]
    return shown if nth in ("", "1") else f"{shown} (row {nth})"


def losses(
    old: Table,
    new: Table,
    was: NDArray[np.int64],
    now: NDArray[np.int64],
    new_keys: list[str],
    statement: FollowUpStatement,
) -> list[GraverChange]:
    """All rows that lost their event, or whose follow-up ends earlier: none is left out of the list."""
    found: list[GraverChange] = []

    def add(name: str, hit: NDArray[np.bool_], what: str) -> None:
        a, b = old.column(name), new.column(name)
        for k in map(int, np.flatnonzero(hit)):
            who = shown_key(new_keys[int(now[k])])
            before, after = a.cell(int(was[k])), b.cell(int(now[k]))
            found.append(GraverChange(who=who, column=name, before=before, after=after, what=what))

    for name in _event_columns(statement):
        if old.has(name) and new.has(name):
            had = _had_event(old.column(name), statement)[was]
            has = _had_event(new.column(name), statement)[now]
            add(name, had & ~has, "the event is gone")
    for name in _end_columns(statement):
        if old.has(name) and new.has(name):
            before, after = _as_numbers(old.column(name))[was], _as_numbers(new.column(name))[now]
            with np.errstate(invalid="ignore"):
                back = (after < before) | (np.isfinite(before) & ~np.isfinite(after))
            add(name, back, "follow-up ends earlier")
    return found


def _event_columns(statement: FollowUpStatement) -> list[str]:
    if isinstance(statement.clock, FirstOf):
        return [event.column for event in statement.clock.events]
    named = {"codes": statement.outcome, "date": statement.event_date, "everyone": None}
    name = named[statement.ended]
    return [] if name is None else [name]


def _end_columns(statement: FollowUpStatement) -> list[str]:
    match statement.clock:
        case BetweenDates(end=end):
            name = end
        case FirstOf(last_contact=last):
            name = last
        case Duration(column=column):
            name = column
    return [] if name is None else [name]


def _had_event(column: Column, statement: FollowUpStatement) -> NDArray[np.bool_]:
    """(n,) True where a cell states that the event happened."""
    if isinstance(column, DateColumn) and (
        statement.ended == "date" or isinstance(statement.clock, FirstOf)
    ):
        return ~column.missing
    codes, code_of = outcome_codes(column)
    meanings = [statement.meaning_of(code) for code in codes]
    return np.array([m is not None and m.meaning == "event" for m in meanings], dtype=bool)[code_of]


def _as_numbers(column: Column) -> NDArray[np.float64]:
    if isinstance(column, DateColumn):
        return column.microseconds
    if isinstance(column, NumberColumn):
        return column.values
    return np.full(column.missing.size, np.nan)


def changed_cells(
    old: Table, new: Table, was: NDArray[np.int64], now: NDArray[np.int64], new_keys: list[str]
) -> tuple[list[ChangedCell], int]:
    """Cells that differ in rows of one subject, and in how many rows any does."""
    shared = [c.name for c in old.columns if new.has(c.name)]
    cells: list[ChangedCell] = []
    rows = np.zeros(now.size, dtype=bool)
    for name in shared:
        a, b = old.column(name), new.column(name)
        other = _differ(a.take(was), b.take(now))
        rows |= other
        for k in np.flatnonzero(other)[: MAX_SHOWN - len(cells)]:
            who = shown_key(new_keys[int(now[k])])
            before, after = a.cell(int(was[k])), b.cell(int(now[k]))
            cells.append(ChangedCell(who=who, column=name, before=before, after=after))
    return cells, int(rows.sum())


def _differ(a: Column, b: Column) -> NDArray[np.bool_]:
    """Where two columns of equal length hold something else."""
    if isinstance(a, TextColumn) and isinstance(b, TextColumn):
        place = {level: k for k, level in enumerate(a.levels)}
        same = np.array([*(place.get(level, -2) for level in b.levels), -1])
        return np.asarray(a.codes != same[b.codes])
    if isinstance(a, NumberColumn) and isinstance(b, NumberColumn):
        return np.asarray((a.values != b.values) & ~(a.missing & b.missing))
    if isinstance(a, DateColumn) and isinstance(b, DateColumn):
        return np.asarray((a.microseconds != b.microseconds) & ~(a.missing & b.missing))
    size = a.missing.size
    return np.fromiter((a.cell(k) != b.cell(k) for k in range(size)), bool, size)
