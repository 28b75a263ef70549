"""A cohort with the covariates that are made from its further tables: rows parted where they change
(methods.md, section 11: Several tables; time-varying covariates)."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.condition import UnfitConditionError, fulfilled
from hourglass.cohort.derive import Blocker
from hourglass.cohort.followup import Cohort
from hourglass.cohort.records.blocked import BlockedError, rows_block
from hourglass.cohort.records.covariate import BaseCovariate, UsedRows
from hourglass.cohort.records.outcomes import with_outcomes
from hourglass.cohort.records.prepared import (
    FurtherTable,
    Prepared,
    RecordCounts,
    prepared,
    times_of,
)
from hourglass.cohort.records.subjects import Subjects, subjects_of
from hourglass.cohort.table import DateColumn, Table
from hourglass.core.covariates.course import Course
from hourglass.core.covariates.joined_times import joined_times
from hourglass.core.covariates.split import split_where_changed
from hourglass.core.errors import NotEstimableError, RefusedRowsError


@dataclass(frozen=True, slots=True, kw_only=True)
class JoinedRecords:
    """The rows of a further table that were joined.

    Attributes:
        name: of the table.
        subject: (m,) whose each is, as the cohort counts its subjects.
        time: (m,) when it was or began; ``numbers``: (m,) its number in the file.
    """

    name: str
    subject: NDArray[np.int64]
    time: NDArray[np.float64]
    numbers: NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class JoinedCohort:
    """A cohort with its covariates, and what became of the rows of each further table.

    ``made`` names the columns that are made of them, in their order; ``prevalent`` is how many subjects
    have a record of the event at or before entry, ``in_gap`` how many their first in a gap.
    """

    cohort: Cohort
    counts: tuple[RecordCounts, ...]
    records: tuple[JoinedRecords, ...] = ()
    made: tuple[str, ...] = ()
    prevalent: int = 0
    in_gap: int = 0


def with_records(
    cohort: Cohort, known: Table, tables: Sequence[FurtherTable]
) -> JoinedCohort | tuple[Blocker, ...]:
    """Make the covariates of a cohort's further tables, and part its rows where one changes.

    Args:
        known: the follow-up table as it was read: rows of a subject that is in it, though not followed,
            are counted and not refused.

    Returns:
        the cohort with a column for each covariate, or what must be decided first.
    """
    try:
        logged = with_outcomes(cohort, known, tables)
        cohort = logged.cohort
        subjects = subjects_of(cohort)
        # What comes after an event that a record made is no mistake.
        by_log = np.zeros(subjects.ended.size, dtype=bool)
        by_log[subjects.of_row[logged.ended]] = True
        subjects = replace(subjects, ended=subjects.ended & ~by_log)
        ready = [prepared(one, cohort, known, subjects) for one in tables]
        found = _joined(cohort, subjects, ready)
        return replace(found, prevalent=logged.prevalent, in_gap=logged.in_gap)
    except BlockedError as blocked:
        return blocked.blocks
    except NotEstimableError as refused:
        return (Blocker(f"The tables cannot be joined: {refused}.", None),)


def _joined(
    cohort: Cohort, subjects: Subjects, ready: Sequence[tuple[Prepared, RecordCounts]]
) -> JoinedCohort:
    made = [(one, covariate) for one, _ in ready for covariate in one.stated.covariates]
    names = [c.name for c in cohort.table.columns] + [covariate.into for _, covariate in made]
    again = next((name for k, name in enumerate(names) if name in names[:k]), None)
    if again is not None:
        sentence = f"There is a column called {again} already: give the new one another name."
        raise BlockedError([Blocker(sentence, None)])
    uses = [_used(one, covariate) for one, covariate in made]
    moments = [c.moments(used) for (_, c), (used, _) in zip(made, uses, strict=True)]
    times = [
        used.clock.times(part)
        for (used, _), parts in zip(uses, moments, strict=True)
        for part in parts
    ]
    beside = np.split(
        joined_times(
            times_of(cohort), np.concatenate([np.empty(0), *times]), cohort.statement.near_ties
        ),
        np.cumsum([part.size for part in times])[:-1],
    )
    courses: list[Course] = []
    for (one, covariate), (used, rows), parts in zip(made, uses, moments, strict=True):
        own, beside = tuple(beside[: len(parts)]), beside[len(parts) :]
        try:
            courses.append(covariate.course(used, own))
        except RefusedRowsError as refused:
            raise BlockedError(_refused(one, covariate, rows, refused)) from None
    parted = split_where_changed(cohort.follow_up, subjects.of_row, courses)
    table = cohort.table.take(parted.row)
    for (one, covariate), values in zip(made, parted.values, strict=True):
        of = covariate.of_column
        column = covariate.made(values, None if of is None else one.table.column(of))
        if covariate.reference and not isinstance(column, DateColumn):
            column = replace(column, reference=covariate.reference)
        table = table.with_column(column)
    varying = frozenset(covariate.into for _, covariate in made if covariate.changes)
    return JoinedCohort(
        replace(cohort, table=table, follow_up=parted.data, time_varying=varying),
        tuple(counts for _, counts in ready),
        tuple(
            JoinedRecords(
                name=one.stated.name,
                subject=one.used.subject,
                time=one.time,
                numbers=one.table.numbers[one.rows],
            )
            for one, _ in ready
        ),
        tuple(covariate.into for _, covariate in made),
    )


def _used(one: Prepared, covariate: BaseCovariate) -> tuple[UsedRows, NDArray[np.int64]]:
    """The rows that a covariate is made from, and their positions in the table."""
    try:
        held = (
            np.ones(one.rows.size, dtype=bool)
            if covariate.condition is None
            else fulfilled(covariate.condition, one.table)[one.rows]
        )
    except UnfitConditionError as unfit:
        raise BlockedError(
            [Blocker(f"{covariate.into}, from {one.stated.name}: {unfit}.", None)]
        ) from None
    rows = one.rows[held]
    of = covariate.of_column
    used = replace(
        one.used,
        subject=one.used.subject[held],
        start=one.used.start[held],
        end=one.used.end[held],
        column=None if of is None else one.table.column(of).take(rows),
    )
    return used, rows


def _refused(
    one: Prepared, covariate: BaseCovariate, rows: NDArray[np.int64], refused: RefusedRowsError
) -> Iterator[Blocker]:
    for refusal in refused.refusals:
        there = np.zeros(one.table.size, dtype=bool)
        there[rows[refusal.rows]] = True
        which = "which" if refusal.rows.size == 1 else "each of which"
        yield rows_block(
            one.stated.name,
            there,
            one.table,
            f"{which} {refusal.reason}",
            before=f"{covariate.into}: ",
            apart=", ",
        )
