"""Periods (from, to] of subjects: whether one is on, its value, and what has added up
(methods.md, section 11: Several tables; time-varying covariates, "Periods")."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.covariates.course import Course, course_of, places, same
from hourglass.core.double_double import added, running_sums, two_product, two_sum
from hourglass.core.errors import NotEstimableError, Refusal, RefusedRowsError
from hourglass.core.ranges import nth_of_run

ALIKE = 1e-12
"""Share of a cut within which a sum is equal to it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Periods:
    """Periods that do not overlap, by subject, then time.

    Attributes:
        subject: (m,) the place of the subject of each, from 0.
        start: (m,) it holds after this time; ``end``: (m,) up to and with this one, +inf where open.
        value: (m,) NaN where there is none.
        row: (m,) its place in the file.
    """

    subject: IntArray
    start: FloatArray
    end: FloatArray
    value: FloatArray
    row: IntArray


def periods_of(
    subject: ArrayLike, start: ArrayLike, end: ArrayLike, value: ArrayLike | None = None
) -> Periods:
    """Sort periods.

    Args:
        subject: (m,) the place of the subject of each, from 0.
        start, end: (m,) from and to; an open end is +inf.
        value: (m,) 1 each when absent.

    Raises:
        RefusedRowsError: naming the rows of periods that end at or before their start, and of those
            of one subject that overlap.
    """
    whose = np.asarray(subject, dtype=np.int64)
    begin, stop = np.asarray(start, dtype=np.float64), np.asarray(end, dtype=np.float64)
    held = np.ones(begin.size) if value is None else np.asarray(value, dtype=np.float64)
    order = np.lexsort((begin, whose))
    made = Periods(
        subject=whose[order], start=begin[order], end=stop[order], value=held[order], row=order
    )
    backwards = ~(made.end > made.start)
    refusals = [Refusal("ends at or before its start", np.sort(order[backwards]))]
    refusals.append(Refusal("overlaps another period of the same subject", overlapping(made)))
    refusals = [one for one in refusals if one.rows.size]
    if refusals:
        raise RefusedRowsError(tuple(refusals))
    return made


def overlapping(periods: Periods) -> IntArray:
    """The rows, ascending, of periods that overlap an earlier one of the subject, and of that one."""
    if periods.row.size == 0:
        return periods.row
    latest, holder = _latest(periods.subject, periods.end)
    over = np.flatnonzero(
        (periods.subject[1:] == periods.subject[:-1]) & (periods.start[1:] < latest[:-1])
    )
    return np.unique(np.concatenate([periods.row[over + 1], periods.row[holder[over]]]))


def united(
    subject: ArrayLike, start: ArrayLike, end: ArrayLike, value: ArrayLike | None = None
) -> Periods:
    """Periods as :func:`periods_of` takes them; those of one subject and value that overlap or touch are one.

    Raises:
        RefusedRowsError: naming the rows of periods that end at or before their start, and of
            overlapping ones whose values differ.
    """
    whose = np.asarray(subject, dtype=np.int64)
    begin, stop = np.asarray(start, dtype=np.float64), np.asarray(end, dtype=np.float64)
    held = np.ones(begin.size) if value is None else np.asarray(value, dtype=np.float64)
    backwards = ~(stop > begin)
    if backwards.any():
        raise RefusedRowsError((Refusal("ends at or before its start", np.flatnonzero(backwards)),))
    order = np.lexsort((begin, held, whose))
    if order.size == 0:
        return periods_of(whose, begin, stop, held)
    new = ~((whose[order][1:] == whose[order][:-1]) & same(held[order][1:], held[order][:-1]))
    group = np.concatenate([[0], np.cumsum(new)])
    latest, _ = _latest(group, stop[order])
    opens = np.concatenate([[True], new | (begin[order][1:] > latest[:-1])])
    made = order[opens]
    ends = latest[np.append(opens[1:], True)]
    try:
        one = periods_of(whose[made], begin[made], ends, held[made])
    except RefusedRowsError as refused:
        rows = np.sort(made[refused.refusals[0].rows])
        why = "overlaps another period of the same subject with another value"
        raise RefusedRowsError((Refusal(why, rows),)) from None
    return replace(one, row=made[one.row])


def _latest(group: IntArray, end: FloatArray) -> tuple[FloatArray, IntArray]:
    """(m,) the latest end so far in each of the ascending groups, and (m,) the place that has it."""
    distinct, rank = np.unique(end, return_inverse=True)
    key = group * distinct.size + rank
    reached = np.maximum.accumulate(key)
    sets = np.concatenate([[True], reached[1:] > reached[:-1]])
    holder = np.maximum.accumulate(np.where(sets, np.arange(key.size), 0))
    return distinct[reached - group * distinct.size], holder


def period_on(periods: Periods, baseline: FloatArray) -> Course:
    """1 while a period is on, else 0; at t ≤ b as just after b.

    Args:
        baseline: (s,) the time b of each subject.
    """
    return period_value(replace(periods, value=np.ones(periods.row.size)), baseline, 0.0)


def period_value(periods: Periods, baseline: FloatArray, outside: float = np.nan) -> Course:
    """The value of the period that is on, ``outside`` where none is; at t ≤ b as just after b.

    Args:
        baseline: (s,) the time b of each subject.
    """
    s = np.arange(baseline.size)
    last = places(periods.subject, periods.start, s, baseline, with_equal=True) - 1
    on = np.append(periods.subject, -1)[last] == s
    on &= np.append(periods.end, -np.inf)[last] > baseline
    first = np.where(on, np.append(periods.value, np.nan)[last], outside)
    begins = periods.start > baseline[periods.subject]
    stops = np.isfinite(periods.end) & (periods.end > baseline[periods.subject])
    stops[:-1] &= (periods.subject[1:] != periods.subject[:-1]) | (
        periods.end[:-1] < periods.start[1:]
    )
    return course_of(
        first,
        np.concatenate([periods.subject[begins], periods.subject[stops]]),
        np.concatenate([periods.start[begins], periods.end[stops]]),
        np.concatenate([periods.value[begins], np.full(int(stops.sum()), outside)]),
    )


@dataclass(frozen=True, slots=True)
class Crossings:
    """When what periods add up to begins to exceed cuts.

    Attributes:
        subject: (c,) whose sum does; ``cut``: (c,) the place of the cut; ``after``: (c,) the time just
            after which it does.
        missing: (s,) the time just after which the sum is not known; +inf where it always is.
    """

    subject: IntArray
    cut: IntArray
    after: FloatArray
    missing: FloatArray


def sum_crossings(periods: Periods, cuts: FloatArray, subjects: int) -> Crossings:
    """When Σ value × (min(t, end) − start)₊ begins to exceed each cut, the sums exact and rounded once.

    Args:
        cuts: (k,) above 0, ascending, in the unit of the value times that of time.
        subjects: s, how many there are.

    Raises:
        RefusedRowsError: naming the rows of periods with a value below 0.
    """
    below = periods.value < 0
    if below.any():
        raise RefusedRowsError((Refusal("has a value below 0", np.sort(periods.row[below])),))
    size = periods.row.size
    unknown = np.isnan(periods.value)
    missing = np.full(subjects, np.inf)
    np.minimum.at(missing, periods.subject[unknown], periods.start[unknown])
    value = np.where(unknown, 0.0, periods.value)
    open_end = np.isinf(periods.end)
    end = np.where(open_end, periods.start, periods.end)
    length, rest = two_sum(end, -periods.start)
    area, lost = two_product(length, value)
    nth = nth_of_run(periods.subject)
    new = nth == 0
    high, low = running_sums(area, nth, lost + rest * value)
    upto = np.where(open_end & (value > 0), np.inf, high)
    before_high = np.where(new, 0.0, np.concatenate([[0.0], high[:-1]])[:size])
    before_low = np.where(new, 0.0, np.concatenate([[0.0], low[:-1]])[:size])
    found = []
    for k, cut in enumerate(cuts.tolist()):
        bound = cut * (1 + ALIKE)
        own = np.flatnonzero((before_high <= bound) & (upto > bound))
        left = added(
            (np.full(own.size, cut), np.zeros(own.size)), (-before_high[own], -before_low[own])
        )
        share = np.where(np.abs(left[0]) <= ALIKE * cut, 0.0, left[0] / value[own])
        found.append((periods.subject[own], np.full(own.size, k), periods.start[own] + share))
    if not found:
        raise NotEstimableError("there are no cuts")
    subject, cut_of, after = (np.concatenate(part) for part in zip(*found, strict=True))
    return Crossings(subject, cut_of, after, missing)


def banded(crossings: Crossings, baseline: FloatArray) -> Course:
    """How many of the cuts the sum exceeds, missing once it is not known; at t ≤ b that at b.

    Args:
        crossings: with times that stand beside those of follow-up.
        baseline: (s,) the time b of each subject.
    """
    b = baseline[crossings.subject]
    first = np.bincount(crossings.subject[crossings.after < b], minlength=baseline.size).astype(
        np.float64
    )
    later = (crossings.after >= b) & (crossings.after < crossings.missing[crossings.subject])
    first[crossings.missing < baseline] = np.nan
    unknown = np.flatnonzero(np.isfinite(crossings.missing) & (crossings.missing >= baseline))
    subject = crossings.subject[later]
    known = np.isfinite(first[subject])
    subject, after = subject[known], crossings.after[later][known]
    cut = crossings.cut[later][known]
    return course_of(
        first,
        np.concatenate([subject, unknown]),
        np.concatenate([after, crossings.missing[unknown]]),
        np.concatenate([cut + 1.0, np.full(unknown.size, np.nan)]),
    )
