"""Follow-up that ends at the first record of a log that is an event
(methods.md, section 11: Several tables; time-varying covariates, "First of")."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.covariates.course import places
from hourglass.core.followup import FollowUp


@dataclass(frozen=True, slots=True)
class FirstEvents:
    """Where records end the follow-up of rows.

    Attributes:
        kept: (n,) False for rows that begin at or after the first record of their subject.
        exit: (n,) the exit of each row, earlier where a record ends it.
        kind: (n,) the kind of the record that ends it; −1 where none does.
        prevalent: (s,) True for subjects with a record at or before their baseline.
        in_gap: (s,) True for subjects whose first record lies in a gap between rows: no event is counted.
    """

    kept: BoolArray
    exit: FloatArray
    kind: IntArray
    prevalent: BoolArray
    in_gap: BoolArray


def first_events(
    data: FollowUp,
    subject: IntArray,
    baseline: FloatArray,
    whose: IntArray,
    time: FloatArray,
    kind: IntArray,
    *,
    own_first: bool = False,
) -> FirstEvents:
    """The first record b < u ≤ T of each subject ends its follow-up there.

    Args:
        subject: (n,) the place of the subject of each row; ``baseline``: (s,) the time b of each.
        whose, time: (m,) the subject and the time of each record, beside those of follow-up.
        kind: (m,) what it is, by place in the stated order, in which ties are decided.
        own_first: whether a row's own event at T counts before a record at T; else after it.
    """
    entry = np.full(data.exit.size, -np.inf) if data.entry is None else data.entry
    last, ended = np.full(baseline.size, -np.inf), np.zeros(baseline.size, dtype=bool)
    np.maximum.at(last, subject, data.exit)
    ended[subject[data.last_rows]] = data.status[data.last_rows] > 0
    prevalent = np.zeros(baseline.size, dtype=bool)
    prevalent[whose[time <= baseline[whose]]] = True
    counts = (time > baseline[whose]) & (time <= last[whose])
    if own_first:
        counts &= ~((time == last[whose]) & ended[whose])
    whose, time, kind = whose[counts], time[counts], kind[counts]
    order = np.lexsort((kind, time, whose))
    whose, time, kind = whose[order], time[order], kind[order]
    s = np.arange(baseline.size)
    first = places(whose, time, s, np.full(s.size, -np.inf), with_equal=False)
    there = np.append(whose, -1)[first] == s
    at = np.where(there, np.append(time, np.inf)[first], np.inf)
    what = np.where(there, np.append(kind, -1)[first], -1)
    kept = entry < at[subject]
    inside = kept & (at[subject] <= data.exit)
    exit = np.where(inside, at[subject], data.exit)
    hit = np.zeros(baseline.size, dtype=bool)
    hit[subject[inside]] = True
    return FirstEvents(kept, exit, np.where(inside, what[subject], -1), prevalent, there & ~hit)
