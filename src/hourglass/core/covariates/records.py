"""Dated records of subjects, sorted, and how several at one time become one
(methods.md, section 11: Several tables; time-varying covariates, "In force")."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Protocol

import numpy as np
from numpy.typing import ArrayLike

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.double_double import running_sums
from hourglass.core.errors import Refusal, RefusedRowsError


@dataclass(frozen=True, slots=True, kw_only=True)
class Records:
    """Records of subjects by subject, then time, those of one time in the order of the file.

    Attributes:
        subject: (m,) the place of the subject of each, from 0.
        at: (m,) from when it counts: its time, a lag added.
        own: (m,) its time itself.
        until: (m,) the last time at which it counts, a lag added; +inf without a limit.
        value: (m,) what it holds; NaN where nothing.
        row: (m,) its place in the file.
    """

    subject: IntArray
    at: FloatArray
    own: FloatArray
    until: FloatArray
    value: FloatArray
    row: IntArray

    def only(self, kept: BoolArray) -> "Records":
        """Some of the records."""
        return Records(
            subject=self.subject[kept],
            at=self.at[kept],
            own=self.own[kept],
            until=self.until[kept],
            value=self.value[kept],
            row=self.row[kept],
        )

    @property
    def with_value(self) -> "Records":
        """Those that hold a value."""
        return self.only(~np.isnan(self.value))

    def after(self, baseline: FloatArray) -> "Records":
        """Those whose own time is above the baseline time (s,) of their subject."""
        return self.only(self.own > baseline[self.subject])


def records_of(
    subject: ArrayLike,
    at: ArrayLike,
    value: ArrayLike | None = None,
    *,
    own: ArrayLike | None = None,
    until: ArrayLike | None = None,
) -> Records:
    """Sort records.

    Args:
        subject: (m,) the place of the subject of each, from 0.
        at: (m,) times, a lag added.
        value: (m,) numbers, or the places of levels; NaN where there is none, 1 each when absent.
        own: (m,) the times without a lag; ``at`` when absent.
        until: (m,) the last times at which they count; without end when absent.
    """
    whose, when = np.asarray(subject, dtype=np.int64), np.asarray(at, dtype=np.float64)
    order = np.lexsort((when, whose))
    held = np.ones(when.size) if value is None else np.asarray(value, dtype=np.float64)
    last = np.full(when.size, np.inf) if until is None else np.asarray(until, dtype=np.float64)
    itself = when if own is None else np.asarray(own, dtype=np.float64)
    return Records(
        subject=whose[order],
        at=when[order],
        own=itself[order],
        until=last[order],
        value=held[order],
        row=order,
    )


class SameTimeRule(Protocol):
    """Which value counts where several differ at one time."""

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        ...

    def of(self, value: FloatArray, starts: IntArray) -> FloatArray:
        """(g,) the value of each time, whose values begin at ``starts`` (g,) among (m,)."""
        ...


class First:
    """The first in the order of the file."""

    key = "first"

    def of(self, value: FloatArray, starts: IntArray) -> FloatArray:
        return value[starts]


class Last:
    """The last in the order of the file."""

    key = "last"

    def of(self, value: FloatArray, starts: IntArray) -> FloatArray:
        return np.asarray(value[np.append(starts[1:], value.size) - 1])


class Mean:
    """The mean of all."""

    key = "mean"

    def of(self, value: FloatArray, starts: IntArray) -> FloatArray:
        sizes = np.diff(np.append(starts, value.size))
        nth = np.arange(value.size) - np.repeat(starts, sizes)
        return np.asarray(running_sums(value, nth)[0][starts + sizes - 1] / sizes)


class Smallest:
    """The smallest."""

    key = "smallest"

    def of(self, value: FloatArray, starts: IntArray) -> FloatArray:
        return np.asarray(np.minimum.reduceat(value, starts))


class Largest:
    """The largest."""

    key = "largest"

    def of(self, value: FloatArray, starts: IntArray) -> FloatArray:
        return np.asarray(np.maximum.reduceat(value, starts))


SAME_TIME_RULES: Mapping[str, SameTimeRule] = MappingProxyType(
    {rule.key: rule for rule in (First(), Last(), Mean(), Smallest(), Largest())}
)
"""The rules by their keys."""


def one_at_each_time(records: Records, rule: SameTimeRule | None = None) -> Records:
    """The records that hold a value, one at each time of a subject; equal values are one.

    Args:
        rule: which of several values counts; without one, differing values are refused.

    Raises:
        RefusedRowsError: naming the rows of records that differ at one time, where there is no rule.
    """
    held = records.with_value
    if held.row.size == 0:
        return held
    new = np.concatenate(
        [[True], (held.subject[1:] != held.subject[:-1]) | (held.at[1:] != held.at[:-1])]
    )
    starts = np.flatnonzero(new)
    if starts.size == held.row.size:
        return held
    value = held.value[starts]
    group = np.cumsum(new) - 1
    differs = np.zeros(starts.size, dtype=bool)
    differs[group[held.value != value[group]]] = True
    if rule is None and differs.any():
        rows = np.sort(held.row[differs[group]])
        raise RefusedRowsError(
            (Refusal("differs from another record of the same subject at the same time", rows),)
        )
    one = held.only(new)
    if rule is None:
        return one
    made = np.where(differs, rule.of(held.value, starts), value)
    return replace(one, value=made)


def constant_values(records: Records, subjects: int) -> FloatArray:
    """(s,) the one value that the records of each subject hold, NaN where none holds one.

    Raises:
        RefusedRowsError: naming the rows of subjects whose records differ.
    """
    held = records.with_value
    found = np.full(subjects, np.nan)
    found[held.subject[::-1]] = held.value[::-1]
    differs = np.zeros(subjects, dtype=bool)
    differs[held.subject[held.value != found[held.subject]]] = True
    if differs.any():
        rows = np.sort(held.row[differs[held.subject]])
        raise RefusedRowsError((Refusal("differs from another record of the same subject", rows),))
    return found
