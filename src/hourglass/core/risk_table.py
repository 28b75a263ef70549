"""Numbers at risk and events over time (methods.md, section 1: Data)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.followup import FollowUp


@dataclass(frozen=True, slots=True)
class RiskTable:
    """One row for each of the K distinct event times, ascending.

    Attributes:
        time: (K,) event times.
        at_risk: (K,) n_j, rows with entry < t ≤ exit.
        events: (K,) d_j.
        last: the largest observed time among the rows.
    """

    time: FloatArray
    at_risk: IntArray
    events: IntArray
    last: float


@dataclass(frozen=True, slots=True)
class AtRisk:
    """The number at risk as a left-continuous step function.

    ``number[k]`` holds for every t with ``time[k-1] < t <= time[k]`` (and for t from 0 to
    ``time[0]``); nobody is at risk past ``time[-1]``.
    """

    time: FloatArray
    number: IntArray


def number_at_risk(data: FollowUp, at: FloatArray) -> IntArray:
    """Rows with entry < t ≤ exit for each t of ``at`` (m,); O((n + m) log n)."""
    number = _count_from(data.exit, data.order, data.count, at)
    if data.entry is not None:
        number = number - _count_from(data.entry, data.entering, data.count, at)
    return number


def risk_table(data: FollowUp, event: BoolArray | None = None) -> RiskTable:
    """Events and numbers at risk at each distinct event time.

    Args:
        data: the follow-up of n rows.
        event: (n,) which rows count as events; status 1 when absent.
    """
    happened = (data.event() if event is None else event)[data.order]
    exit, count = data.exit[data.order], data.count[data.order]
    at = np.flatnonzero(happened)
    new = np.concatenate([[True], exit[at[1:]] != exit[at[:-1]]])[: at.size]
    time, opens = exit[at[new]], np.flatnonzero(new)
    events = np.add.reduceat(count[at], opens) if at.size else count[:0]
    # At each time those with the event stand first, so they show where it begins.
    begins = at[new] if event is None else np.searchsorted(exit, time, side="left")
    number = _from(count, begins)
    if data.entry is not None:
        number -= _count_from(data.entry, data.entering, data.count, time)
    return RiskTable(time, number, events, data.end)


def at_risk_over_time(data: FollowUp) -> AtRisk:
    """The number at risk at every time where it changes; at 0 those who enter at 0 are among them."""
    times = data.exit
    if data.entry is not None:
        times = np.concatenate([times, data.entry[np.isfinite(data.entry) & (data.entry >= 0)]])
    distinct = np.unique(times)
    number = number_at_risk(data, distinct)
    if data.entry is not None and distinct[0] == 0:
        number[0] = data.count[data.entry <= 0].sum()
    return AtRisk(distinct, number)


def person_time(data: FollowUp) -> float:
    """Total time at risk, from max(entry, 0) to exit, counts included."""
    start = 0.0 if data.entry is None else np.maximum(data.entry, 0.0)
    return float(((data.exit - start) * data.count).sum())


def _count_from(times: FloatArray, order: IntArray, count: IntArray, at: FloatArray) -> IntArray:
    """How many rows, counts included, have ``times`` ≥ each ``at``."""
    return _from(count[order], np.searchsorted(times[order], at, side="left"))


def _from(count: IntArray, places: IntArray) -> IntArray:
    """(m,) the sum of ``count`` (n,) from each of some places on."""
    before = np.concatenate([[0], np.cumsum(count)])
    return np.asarray(before[-1] - before[places], dtype=np.int64)
