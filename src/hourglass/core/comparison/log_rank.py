"""The test that compares groups, and its course over time
(methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.comparison.chi_squared import (
    Test,
    chi_squared,
    components,
    no_test,
    quadratic_form,
)
from hourglass.core.comparison.groups import GroupTable, group_table
from hourglass.core.comparison.weights import EQUAL, Weight
from hourglass.core.followup import FollowUp
from hourglass.core.normal import normal_quantile
from hourglass.core.risk_table import RiskTable

BLOCK = 1 << 13
"""So many pairs are taken at a time, so that they stay near the processor."""


@dataclass(frozen=True, slots=True)
class Evidence:
    """The course of the test of one group over the (m,) distinct event times.

    Attributes:
        course: (m,) the running sum of W (d − E).
        limit: (m,) z times the root of its running variance, for one time at a time: a course that
            leaves ± it somewhere is no test by itself.
    """

    time: FloatArray
    course: FloatArray
    limit: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class LogRank:
    """The weighted log-rank test of G groups over the K event times, those of each stratum apart.

    Attributes:
        pooled: the risk table of all groups together, one row a pair of stratum and event time.
        stratum: (K,) the stratum of each.
        weight: (K,) W, what each event time counts for.
        variation: (K,) d (n − d) / (n − 1), 0 where one is at risk: times share × (1 − share) a
            group's variance.
        at_risk, events: (K, G) per group.
        observed, expected: (G,) events seen, and expected if the groups did not differ.
        excess: (G,) U, the weighted sum of seen less expected.
        variance: (G, G) its covariance.
        component: (G,) groups that are linked by being at risk together share a label.
        test: the statistic, degrees of freedom and p.
    """

    pooled: RiskTable
    stratum: IntArray
    weight: FloatArray
    variation: FloatArray
    at_risk: IntArray
    events: IntArray
    observed: IntArray
    expected: FloatArray
    excess: FloatArray
    variance: FloatArray
    component: IntArray
    test: Test

    def evidence(self, group: int, confidence: float = 0.95) -> Evidence:
        """The course of one group's excess, strata added up at each time."""
        time = self.pooled.time
        order: slice | IntArray = slice(None)
        if (time[1:] < time[:-1]).any():  # the times of one stratum after those of another
            order = np.argsort(time, kind="stable")
        time = time[order]
        n, d, of, own = (
            numbers[order].astype(np.float64)
            for numbers in (
                self.pooled.at_risk,
                self.pooled.events,
                self.at_risk[:, group],
                self.events[:, group],
            )
        )
        excess, share = seen_less_expected(of, own, n, d), of / n
        weight = self.weight[order]
        course = np.cumsum(weight * excess)
        spread = np.cumsum(weight**2 * self.variation[order] * share * ((n - of) / n))
        last = np.concatenate([time[1:] != time[:-1], [True]])[: time.size]
        limit = normal_quantile(confidence) * np.sqrt(spread[last])
        return Evidence(time[last], course[last], limit)

    def trend(self, scores: FloatArray | None = None) -> Test:
        """(aᵀU)² / aᵀVa on 1 degree of freedom, over groups in order.

        Args:
            scores: (G,) a, finite; 1, 2, … when absent.
        """
        a = np.arange(1.0, self.observed.size + 1) if scores is None else scores
        if not np.isfinite(a).all():
            raise ValueError("the scores of a trend are finite numbers")
        by_component = np.argsort(self.component, kind="stable")
        same = np.diff(self.component[by_component]) == 0
        if not (same & (np.diff(a[by_component]) != 0)).any():
            return no_test("groups of different scores are never at risk together at an event time")
        # The statistic is that of any other origin and unit: with these no square is out of reach.
        centred = np.ldexp(a, -np.frexp(np.abs(a).max())[1])
        centred -= centred.mean()
        centred /= np.abs(centred).max()
        share = self.at_risk / self.pooled.at_risk[:, None]
        mean = share @ centred
        apart = (share * np.square(centred - mean[:, None])).sum(axis=1)
        variance = float(self.weight**2 * self.variation @ apart)
        return chi_squared(float(centred @ self.excess) ** 2 / variance, 1)


def log_rank(
    data: FollowUp,
    group: IntArray,
    groups: int,
    weight: Weight = EQUAL,
    stratum: IntArray | None = None,
) -> LogRank:
    """Compare groups coded 0 … groups − 1 in ``group`` (n,); O(n log n + groups · K).

    Args:
        weight: what an event time counts for, from the stratum's own numbers.
        stratum: (n,) a code for each row; sums are taken within strata, then added.

    Raises:
        RefusedRowsError: naming the rows with a group code out of range.
    """
    table = group_table(data, group, groups, stratum)
    n, d = table.all_at_risk, table.all_events
    w, variation = weigh(table, weight), variation_of(table)
    v = w**2 * variation
    sums = [
        _sums(table, w, v, slice(start, start + BLOCK)) for start in range(0, max(n.size, 1), BLOCK)
    ]
    excess, expected, own, between = (sum(parts) for parts in zip(*sums, strict=True))
    variance = -np.asarray(between)
    np.fill_diagonal(variance, own)
    label = components(table.at_risk.T, v > 0)
    return LogRank(
        pooled=RiskTable(table.pairs.time, n, d, data.end),
        stratum=table.pairs.stratum,
        weight=w,
        variation=variation,
        at_risk=table.at_risk,
        events=table.events,
        observed=table.events.sum(axis=0),
        expected=np.asarray(expected),
        excess=np.asarray(excess),
        variance=variance,
        component=label,
        test=quadratic_form(np.asarray(excess), variance, label),
    )


def _sums(
    table: GroupTable, w: FloatArray, v: FloatArray, part: slice
) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """Over some pairs: (G,) U, E and the variances of the groups; (G, G) Σ v of products of shares."""
    n, d = (of[part].astype(np.float64) for of in (table.all_at_risk, table.all_events))
    of, seen = (own.T[:, part].astype(np.float64) for own in (table.at_risk, table.events))
    share = of / n
    left = (n - of) / n
    return (
        seen_less_expected(of, seen, n, d) @ w[part],
        share @ d,
        (share * left) @ v[part],
        (share * v[part]) @ share.T,
    )


def seen_less_expected(
    of: FloatArray, own: FloatArray, at_risk: FloatArray, events: FloatArray
) -> FloatArray:
    """(…, K) d_g − n_g d / n, as a difference of what is large only where both parts are.

    Args:
        of, own: (…, K) at risk and events of a group; ``at_risk``, ``events``: (K,) of all.
    """
    return np.asarray((own * (at_risk - of) - of * (events - own)) / at_risk)


def weigh(table: GroupTable, weight: Weight) -> FloatArray:
    """(K,) W of each pair, from the numbers of its own stratum."""
    n, d = table.all_at_risk.astype(np.float64), table.all_events.astype(np.float64)
    w = np.empty(n.size)
    for start, end in zip(table.pairs.starts, table.pairs.ends, strict=True):
        w[start:end] = weight.over(n[start:end], d[start:end])
    return w


def variation_of(table: GroupTable) -> FloatArray:
    """(K,) d (n − d) / (n − 1), 0 where one is at risk."""
    n, d = table.all_at_risk.astype(np.float64), table.all_events.astype(np.float64)
    return np.divide(d * (n - d), n - 1, out=np.zeros_like(n), where=n > 1)
