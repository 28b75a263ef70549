"""What the records before a time come to: their number, sum, mean, extremes, and the time since one
(methods.md, section 11: Several tables; time-varying covariates, "Derived")."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Protocol

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.covariates.course import Course, course_of, places
from hourglass.core.covariates.records import Records
from hourglass.core.double_double import added, running_sums
from hourglass.core.ranges import nth_of_run


@dataclass(frozen=True, slots=True)
class Ranges:
    """For each of q moments the records that count just after it: low ≤ place < high."""

    low: IntArray
    high: IntArray

    @property
    def none(self) -> BoolArray:
        """(q,) whether there are none."""
        return self.high <= self.low


class Summary(Protocol):
    """What the records that count come to."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    @property
    def of_values(self) -> bool:
        """Whether records without a value are passed over."""
        ...

    def over(self, records: Records, ranges: Ranges) -> FloatArray:
        """(q,) of each range of the records."""
        ...


class Count:
    """How many."""

    key, of_values = "count", False

    def over(self, records: Records, ranges: Ranges) -> FloatArray:
        return (ranges.high - ranges.low).astype(np.float64)


class Ever:
    """1 if there is one, else 0."""

    key, of_values = "ever", False

    def over(self, records: Records, ranges: Ranges) -> FloatArray:
        return (~ranges.none).astype(np.float64)


class Sum:
    """The sum of the values; 0 of none."""

    key, of_values = "sum", True

    def over(self, records: Records, ranges: Ranges) -> FloatArray:
        nth = nth_of_run(records.subject)
        begin = np.arange(nth.size) - nth
        high, low = running_sums(records.value, nth)
        found = np.zeros(ranges.low.size)
        some = np.flatnonzero(~ranges.none)
        end, before = ranges.high[some] - 1, ranges.low[some] - 1
        inside = before >= begin[end]
        without = tuple(np.where(inside, -part[before], 0.0) for part in (high, low))
        found[some] = added((high[end], low[end]), (without[0], without[1]))[0]
        return found


class Mean:
    """The mean of the values; missing of none."""

    key, of_values = "mean", True

    def over(self, records: Records, ranges: Ranges) -> FloatArray:
        number = np.where(ranges.none, np.nan, ranges.high - ranges.low)
        return Sum().over(records, ranges) / number


class Largest:
    """The largest of the values; missing of none."""

    key, of_values = "largest", True

    def over(self, records: Records, ranges: Ranges) -> FloatArray:
        return _extremes(np.maximum, records.value, ranges)


class Smallest:
    """The smallest of the values; missing of none."""

    key, of_values = "smallest", True

    def over(self, records: Records, ranges: Ranges) -> FloatArray:
        return _extremes(np.minimum, records.value, ranges)


SUMMARIES: Mapping[str, Summary] = MappingProxyType(
    {one.key: one for one in (Count(), Ever(), Sum(), Mean(), Largest(), Smallest())}
)
"""The summaries by their keys."""


def gathered(records: Records, baseline: FloatArray, summary: Summary) -> Course:
    """A summary of the records that count at each time: those before it, and not past their limit.

    Args:
        records: those that fulfil a condition; of one subject, limits ascend with times.
        baseline: (s,) the time b of each subject; at t ≤ b those at or before b count.
    """
    counted = records.with_value if summary.of_values else records
    first = summary.over(counted, _ranges(counted, np.arange(baseline.size), baseline))
    subject, after = _moments(counted, baseline, (counted.at, counted.until))
    value = summary.over(counted, _ranges(counted, subject, after))
    return course_of(first, subject, after, value)


def time_since(
    records: Records, baseline: FloatArray, crossings: FloatArray, *, last: bool
) -> Course:
    """In which band the time since a record is; −1 where there was none.

    Args:
        records: those that fulfil a condition; of one subject, limits ascend with times.
        crossings: (m, k) the times, ascending, just after which each record in its order in the file is
            farther back than each of k cuts.
        last: since the last record; else since the first of those that count.
    """
    passing = crossings[records.row]

    def band(ranges: Ranges, passed: BoolArray) -> FloatArray:
        return np.where(ranges.none, -1.0, passed.sum(axis=1))

    def reference(ranges: Ranges) -> IntArray:
        return np.where(ranges.none, 0, ranges.high - 1 if last else ranges.low)

    if records.row.size == 0:
        nothing = np.empty(0)
        return course_of(np.full(baseline.size, -1.0), records.subject, nothing, nothing)
    then = _ranges(records, np.arange(baseline.size), baseline)
    first = band(then, passing[reference(then)] < baseline[:, None])
    times = (records.at, records.until, *passing.T)
    # At b itself what lies just a cut back has not crossed it; just after b it has.
    subject, after = _moments(records, baseline, times, at_baseline=True)
    now = _ranges(records, subject, after)
    value = band(now, passing[reference(now)] <= after[:, None])
    return course_of(first, subject, after, value)


def _moments(
    records: Records,
    baseline: FloatArray,
    times: tuple[FloatArray, ...],
    *,
    at_baseline: bool = False,
) -> tuple[IntArray, FloatArray]:
    """The finite times of records after the baseline of their subjects, or from it on."""
    subject, after = np.tile(records.subject, len(times)), np.concatenate(times)
    low = baseline[subject]
    kept = np.isfinite(after) & ((after >= low) if at_baseline else (after > low))
    return subject[kept], after[kept]


def _ranges(records: Records, subject: IntArray, moment: FloatArray) -> Ranges:
    """The records of subjects (q,) that count just after moments (q,)."""
    high = places(records.subject, records.at, subject, moment, with_equal=True)
    low = places(records.subject, records.until, subject, moment, with_equal=True)
    return Ranges(low, high)


def _extremes(pick: np.ufunc, value: FloatArray, ranges: Ranges) -> FloatArray:
    """(q,) the largest or smallest of the values of each range, NaN of none.

    Two runs of a power of two values cover each range; runs double from pass to pass, O((N + q) log L).
    """
    found = np.full(ranges.low.size, np.nan)
    length = np.maximum(ranges.high - ranges.low, 0)
    power = np.where(length > 0, np.floor(np.log2(np.maximum(length, 1))), -1).astype(np.int64)
    runs = value
    for k in range(int(power.max(initial=-1)) + 1):
        own = np.flatnonzero(power == k)
        found[own] = pick(runs[ranges.low[own]], runs[ranges.high[own] - (1 << k)])
        runs = pick(runs[: -(1 << k)], runs[1 << k :]) if runs.size > 1 << k else runs
    return found
