"""Each row's time, entry, code and count, as the follow-up statement makes them."""

from dataclasses import dataclass
from datetime import date
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.statement import (
    BLANK,
    DAYS_IN,
    UNSTATED,
    BetweenDates,
    CodeMeaning,
    Duration,
    FirstOf,
    FollowUpStatement,
    Meaning,
)
from hourglass.cohort.table import (
    DAY,
    MICRO,
    Column,
    DateColumn,
    NumberColumn,
    Table,
    TextColumn,
    once_for_each,
)

NO_LATE_ENTRY = -np.inf
HAS_DATE, NO_DATE, EVERYONE = "a date", "no date", "everyone"
NO_RECORD = "no record of the event in this table"
PAST_CLOSING = "followed past the closing date"
PAST_LONGEST = "followed past the longest follow-up"
EVENT, CENSORED = CodeMeaning(meaning="event"), CodeMeaning(meaning="censored")


@dataclass(frozen=True, slots=True)
class Blocker:
    """Something that must be decided before any later stage can show a number.

    ``slot`` names the slot of the statement, or None where rows must be decided about; ``table`` the
    further table whose rows they are, blank for that of follow-up.
    """

    sentence: str
    slot: str | None
    rows: tuple[int, ...] = ()
    table: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Derivation:
    """Each row's time, entry, code and count; NaN where there is none.

    Attributes:
        time, entry: (n,) in the statement's unit; entry −inf without late entry.
        codes: the distinct codes; ``code_of``: (n,) each row's place among them.
        meanings: what the codes mean; None until somebody has stated them.
        count: (n,) how many identical rows each stands for, NaN where that is not known.
        past_closing: (n,) True where follow-up went on after the closing date; ``event_past_closing``
            where it ended with the event there.
        started_late: (n,) True where it started after the closing date.
        no_start: (n,) True where a date of start is missing; None where no dates are used.
    """

    time: NDArray[np.float64]
    entry: NDArray[np.float64]
    codes: tuple[str, ...]
    code_of: NDArray[np.int64]
    meanings: tuple[CodeMeaning | None, ...]
    count: NDArray[np.float64]
    past_closing: NDArray[np.bool_]
    event_past_closing: NDArray[np.bool_]
    started_late: NDArray[np.bool_]
    no_start: NDArray[np.bool_] | None

    def counts(self) -> dict[str, int]:
        """How many rows hold each code."""
        found = np.bincount(self.code_of, minlength=len(self.codes))
        return {code: int(n) for code, n in zip(self.codes, found, strict=True) if n}

    def means(self, meaning: Meaning) -> NDArray[np.bool_]:
        """(n,) True where the row's code has this meaning."""
        hit = [m is not None and m.meaning == meaning for m in self.meanings]
        return np.array(hit, dtype=bool)[self.code_of]

    def meaning(self, code: str) -> CodeMeaning | None:
        """What one of the codes means."""
        return self.meanings[self.codes.index(code)]


Derived: TypeAlias = Derivation | tuple[Blocker, ...]
"""Times and codes, or the slots still to be filled: worked out once and handed down."""


def derive(table: Table, statement: FollowUpStatement) -> Derived:
    """Each row's time and code, or the slots still to be filled."""
    blocks = _unfilled(table, statement)
    if blocks:
        return blocks
    start, end, codes, code_of, meanings = _ends(table, statement)
    past = np.zeros(table.size, dtype=bool)
    event_past, late = past, past
    if statement.closing_date is not None and start is not None:
        closing = float(np.datetime64(statement.closing_date, "us").astype(np.int64))
        with np.errstate(invalid="ignore"):
            past = np.asarray(end >= closing + DAY * MICRO)  # the closing day is still followed
            late = np.asarray(start >= closing + DAY * MICRO)
        event = np.array([m is not None and m.meaning == "event" for m in meanings], dtype=bool)
        event_past = past & event[code_of]
        end = np.where(past, closing, end)
        if past.any():
            codes, meanings = (*codes, PAST_CLOSING), (*meanings, CENSORED)
            code_of = np.where(past, len(codes) - 1, code_of)
    # Whole microseconds, subtracted exactly and divided once.
    time = end if start is None else (end - start) / (DAYS_IN[statement.unit] * DAY * MICRO)
    return Derivation(
        time=time,
        entry=_entries(table, statement, start),
        codes=codes,
        code_of=code_of,
        meanings=meanings,
        count=_counts(table, statement),
        past_closing=past,
        event_past_closing=event_past,
        started_late=late,
        no_start=None if start is None else np.isnan(start),
    )


Ends = tuple[
    NDArray[np.float64] | None,
    NDArray[np.float64],
    tuple[str, ...],
    NDArray[np.int64],
    tuple[CodeMeaning | None, ...],
]


def _ends(table: Table, statement: FollowUpStatement) -> Ends:
    """Start and end (microseconds since 1970, or no start and the time itself), codes, meanings."""
    clock = statement.clock
    if isinstance(clock, FirstOf):
        return _first_of(table, clock, statement.closing_date)
    if isinstance(clock, BetweenDates):
        start, end = _instants(table, clock.start), _instants(table, clock.end)
    else:
        column = table.column(clock.column or "")
        assert isinstance(column, NumberColumn)
        start, end = None, column.values
    if statement.ended == "everyone":
        return start, end, (EVERYONE,), np.zeros(table.size, dtype=np.int64), (EVENT,)
    if statement.ended == "records":
        return start, end, (NO_RECORD,), np.zeros(table.size, dtype=np.int64), (CENSORED,)
    if statement.ended == "date":
        there = ~table.column(statement.event_date or "").missing
        return start, end, (NO_DATE, HAS_DATE), there.astype(np.int64), (CENSORED, EVENT)
    codes, code_of = outcome_codes(table.column(statement.outcome or ""))
    return start, end, codes, code_of, tuple(statement.meaning_of(code) for code in codes)


def _first_of(table: Table, clock: FirstOf, closing: date | None) -> Ends:
    """To the earliest event; without one to the last contact, or to the closing date where all are followed
    until then."""
    if clock.last_contact is None and closing is not None:
        last = np.full(table.size, float(np.datetime64(closing, "us").astype(np.int64)))
    else:
        last = _instants(table, clock.last_contact)
    dates = [_instants(table, event.column) for event in clock.events]
    end = np.full(table.size, np.inf)
    code_of = np.zeros(table.size, dtype=np.int64)
    for k, happened in enumerate(dates, start=1):
        with np.errstate(invalid="ignore"):
            earlier = happened < end
        end[earlier], code_of[earlier] = happened[earlier], k
    nothing = code_of == 0
    end[nothing] = last[nothing]
    codes = ("last contact", *(event.column for event in clock.events))
    meanings = [CodeMeaning(meaning=e.meaning, name=e.name or e.column) for e in clock.events]
    return _instants(table, clock.start), end, codes, code_of, (CENSORED, *meanings)


def _instants(table: Table, name: str | None) -> NDArray[np.float64]:
    column = table.column(name or "")
    assert isinstance(column, DateColumn)
    return column.microseconds


def outcome_codes(column: Column) -> tuple[tuple[str, ...], NDArray[np.int64]]:
    """The distinct codes of an outcome column, and each row's place among them.

    Spaces around a code and capitals do not count: the most frequent spelling stands for all.
    """
    codes, code_of, _ = folded_codes(column)
    return codes, code_of


@once_for_each
def folded_codes(
    column: Column,
) -> tuple[tuple[str, ...], NDArray[np.int64], tuple[tuple[str, ...], ...]]:
    """Codes, each row's place among them, and for each code the spellings taken for it."""
    if isinstance(column, TextColumn):
        raw = [*column.levels, BLANK]
        place = np.where(column.codes < 0, len(raw) - 1, column.codes).astype(np.int64)
    elif isinstance(column, NumberColumn):
        distinct, place = np.unique(column.values, return_inverse=True)
        raw = [column.written(float(v)) for v in distinct]
    else:
        distinct, place = np.unique(column.values, return_inverse=True)
        raw = ["" if np.isnat(v) else str(v) for v in distinct]
    held = np.bincount(place, minlength=len(raw))
    families: dict[str, list[int]] = {}
    for k in map(int, np.flatnonzero(held)):
        families.setdefault(raw[k].strip().casefold(), []).append(k)
    named = sorted(
        (_commonest([(raw[k].strip(), held[k]) for k in f]), f) for f in families.values()
    )
    new = np.zeros(len(raw), dtype=np.int64)
    for place_of, (_, family) in enumerate(named):
        new[family] = place_of
    spellings = tuple(tuple(raw[k] for k in family) for _, family in named)
    return tuple(name for name, _ in named), new[place], spellings


def _commonest(spelled: list[tuple[str, np.int64]]) -> str:
    counts: dict[str, int] = {}
    for text, n in spelled:
        counts[text] = counts.get(text, 0) + int(n)
    return max(counts, key=lambda text: counts[text])


def _entries(
    table: Table, statement: FollowUpStatement, start: NDArray[np.float64] | None
) -> NDArray[np.float64]:
    if statement.late_entry is None:
        return np.full(table.size, NO_LATE_ENTRY)
    column = table.column(statement.late_entry)
    if isinstance(column, DateColumn):
        assert start is not None
        entry = (column.microseconds - start) / (DAYS_IN[statement.unit] * DAY * MICRO)
    else:
        assert isinstance(column, NumberColumn)
        entry = column.values
    return np.where(column.missing, NO_LATE_ENTRY, entry)


def _counts(table: Table, statement: FollowUpStatement) -> NDArray[np.float64]:
    if statement.count is None:
        return np.ones(table.size)
    column = table.column(statement.count)
    assert isinstance(column, NumberColumn)
    return column.values


NeededColumns = list[tuple[str, str | None, type[DateColumn | NumberColumn]]]


def _needed(statement: FollowUpStatement) -> NeededColumns:
    """The slots that need a column, and what it must hold."""
    clock = statement.clock
    needed: NeededColumns
    match clock:
        case BetweenDates():
            needed = [("start", clock.start, DateColumn), ("end", clock.end, DateColumn)]
        case FirstOf():
            needed = [("start", clock.start, DateColumn)]
            if clock.last_contact is not None or statement.closing_date is None:
                needed.append(("last_contact", clock.last_contact, DateColumn))
            needed += [("event", event.column, DateColumn) for event in clock.events]
        case Duration():
            needed = [("duration", clock.column, NumberColumn)]
    if statement.late_entry is not None:
        kind: type[DateColumn | NumberColumn] = DateColumn if statement.dated else NumberColumn
        needed.append(("late_entry", statement.late_entry, kind))
    if statement.count is not None:
        needed.append(("count", statement.count, NumberColumn))
    return needed


def _unfilled(table: Table, statement: FollowUpStatement) -> tuple[Blocker, ...]:
    blocks = []
    for slot, name, kind in _needed(statement):
        what = "dates" if kind is DateColumn else "numbers"
        shown = slot.replace("_", " ")
        if name is None:
            other = ", or add a closing date" if slot == "last_contact" else ""
            blocks.append(Blocker(f"Choose the column that holds the {shown}{other}.", slot))
        elif not table.has(name):
            blocks.append(
                Blocker(f"There is no column called {name}: choose another {shown}.", slot)
            )
        elif not isinstance(table.column(name), kind):
            blocks.append(Blocker(f"{name} does not hold {what}: choose another {shown}.", slot))
    if isinstance(statement.clock, FirstOf):
        if not statement.clock.events:
            blocks.append(Blocker("Choose at least one dated event.", "event"))
        return (*blocks, *_unit(statement))
    if statement.ended == "codes":
        if statement.outcome is None:
            blocks.append(
                Blocker("Choose the column that says how each follow-up ended.", "outcome")
            )
        elif not table.has(statement.outcome):
            blocks.append(Blocker(f"There is no column called {statement.outcome}.", "outcome"))
    elif statement.ended == "date" and (
        statement.event_date is None or not table.has(statement.event_date)
    ):
        blocks.append(Blocker("Choose the column that holds the date of the event.", "outcome"))
    blocks += _unit(statement)
    return tuple(blocks)


def _unit(statement: FollowUpStatement) -> list[Blocker]:
    if statement.dated and statement.unit not in DAYS_IN:
        return [Blocker("Choose a unit of time: follow-up is worked out from dates.", "unit")]
    chosen = not isinstance(statement.clock, Duration) or statement.clock.column is not None
    if statement.unit == UNSTATED and chosen:
        return [Blocker("Choose a unit of time: the column of times does not state one.", "unit")]
    return []
