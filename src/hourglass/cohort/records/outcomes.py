"""Follow-up that ends at the first record of a log
(methods.md, section 11: Several tables; time-varying covariates, "First of")."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.condition import UnfitConditionError, fulfilled
from hourglass.cohort.derive import Blocker
from hourglass.cohort.followup import Cohort
from hourglass.cohort.records.blocked import BlockedError
from hourglass.cohort.records.prepared import FurtherTable, prepared
from hourglass.cohort.records.statement import LoggedOutcome
from hourglass.cohort.records.subjects import Subjects, subjects_of
from hourglass.cohort.table import Table
from hourglass.core.covariates.first_of import first_events
from hourglass.core.followup import follow_up


@dataclass(frozen=True, slots=True)
class LoggedCohort:
    """A cohort whose follow-up ends at records.

    Attributes:
        ended: (n,) True for rows that a record ended.
        prevalent: subjects with a record at or before entry; ``in_gap``: those whose first record lies in
            a gap between their rows, after which they are followed no more, without an event.
    """

    cohort: Cohort
    ended: NDArray[np.bool_]
    prevalent: int
    in_gap: int


def with_outcomes(cohort: Cohort, known: Table, tables: Sequence[FurtherTable]) -> LoggedCohort:
    """End follow-up at the first record of the outcomes that tables state.

    Args:
        known: the follow-up table as it was read.

    Raises:
        BlockedError: when a table cannot be joined, or a condition does not fit it.
    """
    stated = [one for one in tables if one.stated.outcomes]
    data = cohort.follow_up
    if not stated:
        return LoggedCohort(cohort, np.zeros(data.exit.size, dtype=bool), 0, 0)
    subjects = subjects_of(cohort)
    outcomes = [outcome for one in stated for outcome in one.stated.outcomes]
    whose, time, kind = _records(cohort, known, subjects, stated)
    found = first_events(
        data,
        subjects.of_row,
        subjects.baseline,
        whose,
        time,
        kind,
        own_first=any(one.stated.own_event_first for one in stated),
    )
    out = found.prevalent & any(one.stated.prevalent_left_out for one in stated)
    kept = found.kept & ~out[subjects.of_row]
    if not kept.any():
        sentence = (
            "Every subject has a record of the event at or before entry: nobody is left to follow."
        )
        raise BlockedError([Blocker(sentence, None)])
    status, competing = _statuses(cohort, outcomes)
    rows = np.flatnonzero(kept)
    ended = found.kind[rows] >= 0
    made = follow_up(
        found.exit[rows],
        np.where(ended, status[found.kind[rows]], data.status[rows]),
        None if data.entry is None else data.entry[rows],
        data.count[rows],
        subjects.of_row[rows],
        0.0,  # its times are merged already
    )
    made = replace(made, merged=data.merged, close=data.close)
    logged = replace(cohort, table=cohort.table.take(rows), follow_up=made, competing=competing)
    return LoggedCohort(logged, ended, int(found.prevalent.sum()), int(found.in_gap.sum()))


def _records(
    cohort: Cohort, known: Table, subjects: Subjects, stated: Sequence[FurtherTable]
) -> tuple[NDArray[np.int64], NDArray[np.float64], NDArray[np.int64]]:
    """The records of all outcomes: whose each is, when it was, and the place of its outcome."""
    whose, time, kind = [], [], []
    place = 0
    for one in stated:
        ready, _ = prepared(one, cohort, known, subjects)
        for outcome in one.stated.outcomes:
            try:
                hit = fulfilled(outcome.condition, one.table)[ready.rows]
            except UnfitConditionError as unfit:
                sentence = f"{outcome.name}, from {one.stated.name}: {unfit}."
                raise BlockedError([Blocker(sentence, None)]) from None
            whose.append(ready.used.subject[hit])
            time.append(ready.time[hit])
            kind.append(np.full(int(hit.sum()), place))
            place += 1
    return np.concatenate(whose), np.concatenate(time), np.concatenate(kind)


def _statuses(
    cohort: Cohort, outcomes: Sequence[LoggedOutcome]
) -> tuple[NDArray[np.int64], tuple[str, ...]]:
    """The status of each outcome, and the names of all competing events."""
    competing = list(cohort.competing)
    status = []
    for one in outcomes:
        if one.meaning == "competing" and one.name not in competing:
            competing.append(one.name)
        status.append(1 if one.meaning == "event" else 2 + competing.index(one.name))
    return np.array(status, dtype=np.int64), tuple(competing)
