"""Whether groups differ in the cumulative incidence of the event (Gray 1988;
methods.md, section 5: Competing events)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.comparison.chi_squared import Test, of_rank
from hourglass.core.comparison.groups import refuse_codes_out_of_range
from hourglass.core.competing.incidence import cause_table, incidence
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import FollowUp
from hourglass.core.risk_table import number_at_risk, risk_table
from hourglass.core.subjects import delayed_entry

MIN_POOLED_SURVIVAL = 1e-12
"""Pooled survival of the subdistribution below which nothing is left of it but rounding."""


@dataclass(frozen=True, slots=True, kw_only=True)
class GrayTest:
    """The test with its (G,) sums z and their (G, G) covariance.

    Attributes:
        time: (K,) the times of an event of any cause; ``observed``, ``expected``: (G, K) events of the
            cause in each group, and those expected by its share of the weights; z sums what is between.
    """

    time: FloatArray
    observed: FloatArray
    expected: FloatArray
    excess: FloatArray
    variance: FloatArray
    test: Test


@dataclass(frozen=True, slots=True, kw_only=True)
class _Group:
    """A group at the K times of an event of any cause in any group.

    Attributes:
        at_risk: n_r; ``before``, ``survival``: S_r(t−), S_r(t); ``incidence``: F_r(t−).
        own, others: events of the cause, and of all others.
    """

    at_risk: FloatArray
    before: FloatArray
    survival: FloatArray
    incidence: FloatArray
    own: FloatArray
    others: FloatArray


def gray_test(data: FollowUp, group: IntArray, groups: int) -> GrayTest:
    """Compare the cumulative incidence of status 1 among groups coded 0 … groups − 1; O(G³ K).

    Raises:
        NotEstimableError: with delayed entry, where a group emptied at 0 is refilled by rows that enter
            at 0, and where the pooled incidence has reached 1 before a later event of the cause.
        ValueError: for a group code out of range.
    """
    refuse_codes_out_of_range(group, groups)
    if delayed_entry(data):
        raise NotEstimableError("the test of cumulative incidence is not known with delayed entry")
    time = risk_table(data, data.status > 0).time
    parts = [_of_group(data, group == g, time) for g in range(groups)]
    at_risk, before = np.array([p.at_risk for p in parts]), np.array([p.before for p in parts])
    if ((at_risk > 0) & (before <= 0)).any():
        raise NotEstimableError(
            "in one group everyone had an event at time 0, and rows that enter at 0 follow them"
        )
    h = at_risk / np.where(at_risk > 0, before, 1.0)
    own = np.array([p.own for p in parts])
    total, events = h.sum(axis=0), own.sum(axis=0)
    weight = h * np.array([1 - p.incidence for p in parts])
    share = weight / np.where(weight.sum(axis=0) > 0, weight.sum(axis=0), 1.0)
    expected = share * events
    excess = (own - expected).sum(axis=1)
    d_incidence = events / total
    free = 1 - np.cumsum(d_incidence)
    free_before = np.concatenate([[1.0], free[:-1]])[: free.size]
    left = free_before > MIN_POOLED_SURVIVAL
    if ((events > 0) & ((at_risk > 0).sum(axis=0) > 1) & ~left).any():
        raise NotEstimableError(
            "the incidence of the event, all groups together, reaches 1 before a later event"
        )
    hazard = np.divide(d_incidence, free_before, out=np.zeros_like(free), where=left)
    variance = np.zeros((groups, groups))
    for r, p in enumerate(parts):
        there = h[r] > 0
        ratio = np.divide(free, p.survival, out=np.zeros_like(free), where=p.survival > 0)
        a, b = np.empty((groups, time.size)), np.empty((groups, time.size))
        for k in range(groups):
            d = h[r] * ((k == r) - h[k] / total)
            ahead = np.cumsum((d * hazard)[::-1])[::-1] - d * hazard
            a[k], b[k] = d + (1 - ratio) * ahead, -ratio * ahead
        own_share = np.divide(d_incidence, h[r], out=np.zeros_like(free), where=there)
        other_share = np.divide(p.others, h[r] ** 2, out=np.zeros_like(free), where=there)
        variance += (a * own_share) @ a.T + (b * other_share) @ b.T
    return GrayTest(
        time=time,
        observed=own,
        expected=expected,
        excess=excess,
        variance=variance,
        test=of_rank(excess, variance),
    )


def _of_group(data: FollowUp, rows: BoolArray, time: FloatArray) -> _Group:
    if not rows.any():
        nothing, one = np.zeros(time.size), np.ones(time.size)
        return _Group(
            at_risk=nothing,
            before=one,
            survival=one,
            incidence=nothing,
            own=nothing,
            others=nothing,
        )
    part = data.only(rows)
    table = cause_table(part)
    f = incidence(table, 1).value
    place = np.searchsorted(table.any.time, time, side="left")
    after = np.searchsorted(table.any.time, time, side="right")
    survival = np.concatenate([[1.0], table.survival])
    own, any_cause = np.zeros(time.size), np.zeros(time.size)
    at = np.searchsorted(time, table.any.time)
    own[at], any_cause[at] = table.of(1), table.any.events
    return _Group(
        at_risk=number_at_risk(part, time).astype(np.float64),
        before=survival[place],
        survival=survival[after],
        incidence=np.concatenate([[0.0], f])[place],
        own=own,
        others=any_cause - own,
    )
