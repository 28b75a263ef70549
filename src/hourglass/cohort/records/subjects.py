"""Those who are followed, as rows of further tables are joined to them."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.derive import Blocker
from hourglass.cohort.followup import Cohort
from hourglass.cohort.records.blocked import BlockedError, rows_block
from hourglass.cohort.statement import Duration
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.table import Column, DateColumn
from hourglass.core.subjects import copies_of_subjects


@dataclass(frozen=True, slots=True, kw_only=True)
class Subjects:
    """Those who are followed: their keys, and when.

    Attributes:
        of_row: (n,) the place of the subject of each row of the cohort.
        key: (s,) their keys; ``origin``: (s,) the starts of follow-up, where it is worked out from dates.
        baseline: (s,) the time b of each; ``before_landmark``: that before a landmark, if one is set.
        end: (s,) the last exit of each; ``ended``: (s,) True where it is no censoring.
    """

    of_row: NDArray[np.int64]
    key: Column
    origin: DateColumn | None
    baseline: NDArray[np.float64]
    before_landmark: NDArray[np.float64] | None
    end: NDArray[np.float64]
    ended: NDArray[np.bool_]


def subjects_of(cohort: Cohort) -> Subjects:
    """Those whom a cohort follows.

    Raises:
        BlockedError: when no column names them, or several rows have one name.
    """
    statement, data = cohort.statement, cohort.follow_up
    name = statement.subject
    if name is None or not cohort.table.has(name):
        raise BlockedError(
            [
                Blocker(
                    "Choose the column that names each subject: rows of further tables are joined by it.",
                    "subject",
                )
            ]
        )
    column = cohort.table.column(name)
    if column.missing.any():
        raise BlockedError(
            [
                rows_block(
                    "", column.missing, cohort.table, f"without {name}, by which tables are joined"
                )
            ]
        )
    of_row, _ = copies_of_subjects(data)
    size = int(of_row.max()) + 1
    first = np.full(size, of_row.size, dtype=np.int64)
    np.minimum.at(first, of_row, np.arange(of_row.size))
    key = column.take(first)
    if data.subject is None:
        code = keys_of(cohort.table, [name])
        twice = np.bincount(code)[code] > 1
        if twice.any():
            what = f"whose {name} another row has too: state that a subject may have several rows"
            raise BlockedError(
                [rows_block("", twice, cohort.table, f"{what}, or decide about them")]
            )
    clock = statement.clock
    start = None if isinstance(clock, Duration) else cohort.table.column(clock.start or "")
    assert start is None or isinstance(start, DateColumn)
    if start is not None:
        other = start.microseconds != start.microseconds[first][of_row]
        if other.any():
            what = f"with another {start.name} than the first row of their {name}"
            raise BlockedError([rows_block("", other, cohort.table, what)])
    entry = np.full(data.exit.size, -np.inf) if data.entry is None else data.entry
    baseline = np.full(size, np.inf)
    np.minimum.at(baseline, of_row, np.maximum(entry, 0.0))
    end, ended = np.full(size, -np.inf), np.zeros(size, dtype=bool)
    np.maximum.at(end, of_row, data.exit)
    last = data.last_rows
    ended[of_row[last]] = data.status[last] > 0
    # After a landmark times are set back: the baseline of before lies below 0.
    landmark = statement.landmark
    return Subjects(
        of_row=of_row,
        key=key,
        origin=None if start is None else start.take(first),
        baseline=baseline,
        before_landmark=None if landmark is None else np.full(size, -landmark),
        end=end,
        ended=ended,
    )
