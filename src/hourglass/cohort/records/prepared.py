"""Rows of a further table as covariates are made from them: whose they are, when they were, what is refused
(methods.md, section 11: Several tables; time-varying covariates, "Keys", "Times")."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.derive import Blocker
from hourglass.cohort.followup import Cohort
from hourglass.cohort.records.blocked import BlockedError, rows_block
from hourglass.cohort.records.clock import RecordClock, clock_of, since_origin
from hourglass.cohort.records.covariate import OF_PERIODS, BaseCovariate, Change, UsedRows
from hourglass.cohort.records.keys import MatchedKeys, key_column, matched
from hourglass.cohort.records.statement import RecordTable
from hourglass.cohort.records.subjects import Subjects
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.table import DateColumn, NumberColumn, Table, TextColumn
from hourglass.cohort.words import grouped
from hourglass.core.covariates.joined_times import joined_times


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordCounts:
    """What became of the rows of a further table.

    Attributes:
        name: of the table; ``rows``: how many it has.
        not_followed: rows of subjects that are in the follow-up table, but not followed.
        before: rows at or before entry; ``during``: rows after it, during follow-up; ``late``: rows at or
            after the end of follow-up, which explain nothing.
        without: subjects followed without any row.
    """

    name: str
    rows: int
    not_followed: int
    before: int
    during: int
    late: int
    without: int


@dataclass(frozen=True, slots=True)
class FurtherTable:
    """A further table after its steps, with how it is read."""

    table: Table
    stated: RecordTable


@dataclass(frozen=True, slots=True)
class Prepared:
    """The rows of a further table that are of subjects who are followed.

    ``time`` (m,) is when each was, or began, beside the times of follow-up.
    """

    stated: RecordTable
    table: Table
    rows: NDArray[np.int64]
    used: UsedRows
    time: NDArray[np.float64]


def prepared(
    further: FurtherTable, cohort: Cohort, known: Table, subjects: Subjects
) -> tuple[Prepared, RecordCounts]:
    """The rows of a table that are of subjects who are followed, and what became of the others.

    Args:
        known: the follow-up table as it was read.

    Raises:
        BlockedError: when its statement has open slots, or rows must be decided about.
    """
    stated, table = further.stated, further.table
    blocks = [*_unfilled(stated, table, subjects), *_no_baseline(stated, cohort.statement)]
    if blocks:
        raise BlockedError(blocks)
    keys = matched(subjects.key, table.column(stated.key or ""))
    elsewhere = _known_elsewhere(known, cohort.statement.subject or "", table, stated, keys)
    at = table.column(stated.at or "")
    assert isinstance(at, DateColumn | NumberColumn)
    blocks = list(_unusable(stated, table, keys, elsewhere, at))
    clock = clock_of(at, subjects.origin, cohort.statement.unit, cohort.statement.landmark)
    start = since_origin(at, subjects.origin, keys.place)
    end = _ends(stated, table, subjects, keys.place, start, clock)
    ours = keys.place >= 0
    with np.errstate(invalid="ignore"):
        backwards = ours & (end <= start) if stated.role == "periods" else np.zeros_like(ours)
    if backwards.any():
        blocks.append(
            rows_block(stated.name, backwards, table, "that end at or before their start")
        )
    blocks += _not_whole(stated, clock)
    if blocks:
        raise BlockedError(blocks)
    rows = np.flatnonzero(ours)
    whose = keys.place[rows]
    used = UsedRows(
        subject=whose,
        start=start[rows],
        end=end[rows],
        column=None,
        clock=clock,
        baseline=subjects.baseline,
        before_landmark=subjects.before_landmark,
    )
    time = joined_times(times_of(cohort), clock.times(used.start), cohort.statement.near_ties)
    after_end = (time > subjects.end[whose]) & subjects.ended[whose]
    if stated.role == "dated records" and after_end.any():
        of_table = np.zeros(table.size, dtype=bool)
        of_table[rows[after_end]] = True
        raise BlockedError(
            [
                rows_block(
                    stated.name,
                    of_table,
                    table,
                    "after the event of their subject: its end or the key may be wrong. Set them aside, or "
                    "correct them",
                )
            ]
        )
    early, late = time <= subjects.baseline[whose], time >= subjects.end[whose]
    there = np.zeros(subjects.baseline.size, dtype=bool)
    there[whose] = True
    counts = RecordCounts(
        name=stated.name,
        rows=table.size,
        not_followed=int(elsewhere.sum()),
        before=int(early.sum()),
        during=int((~early & ~late).sum()),
        late=int((late & ~early).sum()),
        without=int((~there).sum()),
    )
    return Prepared(stated, table, rows, used, time), counts


def times_of(cohort: Cohort) -> NDArray[np.float64]:
    """The entry and exit times of a cohort."""
    data = cohort.follow_up
    return data.exit if data.entry is None else np.concatenate([data.exit, data.entry])


def _unfilled(stated: RecordTable, table: Table, subjects: Subjects) -> Iterator[Blocker]:
    """Slots of the table's statement that are open, or do not fit."""
    dates: tuple[type, ...] = (
        (NumberColumn,) if subjects.origin is None else (DateColumn, NumberColumn)
    )
    kind = "numbers" if subjects.origin is None else "dates or times"
    wanted = [
        (stated.key, "whose each row is", (TextColumn, NumberColumn), "keys"),
        (stated.at, "when each row was", dates, kind),
    ]
    if stated.role == "periods":
        wanted.append((stated.until, "when each period ends", dates, kind))
    for name, what, kinds, holds in wanted:
        if name is None:
            yield Blocker(f"{stated.name}: choose the column that shows {what}.", None)
        elif not table.has(name):
            yield Blocker(f"{stated.name} has no column called {name}: choose another.", None)
        elif not isinstance(table.column(name), kinds):
            yield Blocker(f"{stated.name}: {name} does not hold {holds}.", None)
    at, until = (
        table.column(n) if table.has(n) else None for n in (stated.at or "", stated.until or "")
    )
    if stated.role == "periods" and at is not None and until is not None and at.kind != until.kind:
        yield Blocker(
            f"{stated.name}: {stated.at} holds {at.kind}s and {stated.until} {until.kind}s: a period needs "
            "two of one kind.",
            None,
        )
    for covariate in stated.covariates:
        yield from _unfit(stated, table, covariate)
    if stated.outcomes and stated.role == "periods":
        yield Blocker(f"{stated.name}: an outcome is made from dated records.", None)
    for clause in (clause for one in stated.outcomes for clause in one.condition.clauses):
        if not table.has(clause.column):
            yield Blocker(f"{stated.name}: there is no column called {clause.column}.", None)


def _unfit(stated: RecordTable, table: Table, covariate: BaseCovariate) -> Iterator[Blocker]:
    of = covariate.of_column
    where = f"{covariate.into}, from {stated.name}"
    if isinstance(covariate, OF_PERIODS) != (stated.role == "periods"):
        yield Blocker(f"{where}: it cannot be made from {stated.role}.", None)
    if of is not None and not table.has(of):
        yield Blocker(f"{where}: there is no column called {of}.", None)
    elif of is not None and isinstance(table.column(of), DateColumn):
        yield Blocker(f"{where}: {of} holds dates, which are no values.", None)
    elif covariate.needs_numbers and (of is None or not isinstance(table.column(of), NumberColumn)):
        yield Blocker(f"{where}: choose a column of numbers.", None)
    named = () if covariate.condition is None else covariate.condition.clauses
    for clause in named:
        if not table.has(clause.column):
            yield Blocker(f"{where}: there is no column called {clause.column}.", None)


def _no_baseline(stated: RecordTable, statement: FollowUpStatement) -> Iterator[Blocker]:
    """A change since entry has no entry to start from once a landmark has set delayed entries aside."""
    if statement.landmark is None or statement.late_entry is None:
        return
    for covariate in stated.covariates:
        if isinstance(covariate, Change):
            yield Blocker(
                f"{covariate.into}, from {stated.name}: with delayed entry and a landmark the change since "
                "entry is not known. Take out one of the two, or use the value in force.",
                None,
            )


def _known_elsewhere(
    known: Table, name: str, table: Table, stated: RecordTable, keys: MatchedKeys
) -> NDArray[np.bool_]:
    """(m,) True for rows of subjects that are in the follow-up table, but not followed."""
    if not known.has(name) or not key_column(known.column(name)):
        return np.zeros(table.size, dtype=bool)
    every = matched(known.column(name), table.column(stated.key or ""))
    return keys.unknown & (every.place >= 0)


def _unusable(
    stated: RecordTable,
    table: Table,
    keys: MatchedKeys,
    elsewhere: NDArray[np.bool_],
    at: DateColumn | NumberColumn,
) -> Iterator[Blocker]:
    if keys.missing.any():
        yield rows_block(stated.name, keys.missing, table, f"without {stated.key}")
    unknown = keys.unknown & ~elsewhere
    if unknown.any():
        alike = [
            f"“{one.written}” is like “{one.known}”"
            for one in keys.alike
            if unknown[one.rows].any()
        ]
        shown = alike[:5] + ([f"and {grouped(len(alike) - 5)} more"] if len(alike) > 5 else [])
        hint = f" ({', '.join(shown)}, which a step could make the same)" if alike else ""
        yield rows_block(stated.name, unknown, table, f"whose {stated.key} no subject has{hint}")
    undated = at.missing & (keys.place >= 0)
    if undated.any():
        yield rows_block(stated.name, undated, table, f"without {stated.at}")


def _ends(
    stated: RecordTable,
    table: Table,
    subjects: Subjects,
    place: NDArray[np.int64],
    start: NDArray[np.float64],
    clock: RecordClock,
) -> NDArray[np.float64]:
    """(m,) the ends of periods in whole units, +inf where one is open; of records their times."""
    if stated.role != "periods":
        return start
    column = table.column(stated.until or "")
    assert isinstance(column, DateColumn | NumberColumn)
    end = since_origin(column, subjects.origin, place)
    if stated.last_day:
        end = end + clock.length(1.0)
    return np.where(column.missing, np.inf, end)


def _not_whole(stated: RecordTable, clock: RecordClock) -> Iterator[Blocker]:
    if not clock.whole_days:
        return
    for covariate in stated.covariates:
        for length in covariate.lengths():
            if length != int(length):
                yield Blocker(
                    f"{covariate.into}, from {stated.name}: dates without a clock time are counted in whole "
                    f"days, and {length:g} is none.",
                    None,
                )
