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
        number = number - _count_from(data.entry, np.argsort(data.entry), data.count, at)
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
    return RiskTable(time, number_at_risk(data, time), events, data.end)


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
    from_here = np.concatenate([[0], np.cumsum(count[order])])
    before = from_here[np.searchsorted(times[order], at, side="left")]
    return np.asarray(from_here[-1] - before, dtype=np.int64)
