"""The test that compares groups, and its course over time
(methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass

import numpy as np

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.comparison.chi_squared import Test, quadratic_form
from hourglass.core.comparison.weights import EQUAL, Weight
from hourglass.core.curves.survival import normal_quantile
from hourglass.core.followup import FollowUp
from hourglass.core.risk_table import RiskTable, number_at_risk, risk_table


@dataclass(frozen=True, slots=True)
class LogRank:
    """The weighted log-rank test of G groups over the K pooled event times.

    Attributes:
        pooled: the risk table of all groups together.
        weight: (K,) W, what each event time counts for.
        at_risk, events: (K, G) per group.
        observed, expected: (G,) events seen, and expected if the groups did not differ.
        excess: (G,) U, the weighted sum of seen less expected.
        variance: (G, G) its covariance.
        test: the statistic, degrees of freedom and p.
    """

    pooled: RiskTable
    weight: FloatArray
    at_risk: IntArray
    events: IntArray
    observed: IntArray
    expected: FloatArray
    excess: FloatArray
    variance: FloatArray
    test: Test

    def evidence(self, group: int, confidence: float = 0.95) -> tuple[FloatArray, FloatArray]:
        """(K,) running sum of W (d − E) of one group, and z times the root of its running variance.

        The limits are pointwise: a course that leaves them somewhere is no test by itself.
        """
        share = self.at_risk[:, group] / self.pooled.at_risk
        course = np.cumsum(self.weight * (self.events[:, group] - share * self.pooled.events))
        spread = np.cumsum(self.weight**2 * pooled_variance(self.pooled) * share * (1 - share))
        return course, normal_quantile(confidence) * np.sqrt(spread)


def log_rank(data: FollowUp, group: IntArray, groups: int, weight: Weight = EQUAL) -> LogRank:
    """Compare groups coded 0 … groups − 1 in ``group`` (n,); O(groups · n log n)."""
    pooled = risk_table(data)
    k = pooled.time.size
    at_risk = np.zeros((k, groups), dtype=np.int64)
    events = np.zeros((k, groups), dtype=np.int64)
    happened = data.event()
    for g in range(groups):
        rows = group == g
        if not rows.any():
            continue
        at_risk[:, g] = number_at_risk(data.only(rows), pooled.time)
        of_group = rows & happened
        position = np.searchsorted(pooled.time, data.exit[of_group])
        events[:, g] = np.bincount(position, weights=data.count[of_group], minlength=k)
    share = at_risk / pooled.at_risk[:, None]
    observed = events.sum(axis=0)
    expected = share.T @ pooled.events.astype(np.float64)
    w = weight.over(pooled)
    excess = w @ events - share.T @ (w * pooled.events)
    v = w**2 * pooled_variance(pooled)
    variance = -(share * v[:, None]).T @ share
    np.fill_diagonal(variance, (share * (1 - share)).T @ v)
    test = quadratic_form(excess, variance, share[v > 0] > 0)
    return LogRank(pooled, w, at_risk, events, observed, expected, excess, variance, test)


def pooled_variance(pooled: RiskTable) -> FloatArray:
    """(K,) d (n − d) / (n − 1), 0 where one is at risk: times share × (1 − share) a group's variance."""
    n, d = pooled.at_risk.astype(np.float64), pooled.events.astype(np.float64)
    return np.divide(d * (n - d), n - 1, out=np.zeros_like(n), where=n > 1)
