"""Comparing groups: the log-rank test, its course over time, and differences between curves
(methods.md, section 2: Survival curve; section 3: Comparing groups)."""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components
from scipy.special import chdtrc

from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.followup import FollowUp
from hourglass.core.risk_table import RiskTable, number_at_risk, risk_table
from hourglass.core.survival import SurvivalCurve, normal_quantile


@dataclass(frozen=True, slots=True)
class Test:
    """A chi-squared test. Without a statistic, ``blank`` says why there is none."""

    __test__ = False  # a statistical test, not one of pytest's

    statistic: float | None
    df: int
    p: float | None
    blank: str | None = None


def chi_squared(statistic: float, df: int) -> Test:
    """The test of a statistic against chi-squared with ``df`` degrees of freedom."""
    return Test(statistic, df, float(chdtrc(df, statistic)))


@dataclass(frozen=True, slots=True)
class LogRank:
    """The log-rank test of G groups over the K pooled event times (Mantel 1966).

    Attributes:
        pooled: the risk table of all groups together.
        at_risk, events: (K, G) per group.
        observed, expected: (G,) events seen, and expected if the groups did not differ.
        variance: (G, G) covariance of observed − expected.
        test: the statistic, degrees of freedom and p.
    """

    pooled: RiskTable
    at_risk: IntArray
    events: IntArray
    observed: IntArray
    expected: FloatArray
    variance: FloatArray
    test: Test

    def evidence(self, group: int, level: float = 0.95) -> tuple[FloatArray, FloatArray]:
        """(K,) running sum of d − E of one group, and z times the root of its running variance.

        The limits are pointwise: a course that leaves them somewhere is no test by itself.
        """
        share = self.at_risk[:, group] / self.pooled.at_risk
        course = np.cumsum(self.events[:, group] - share * self.pooled.events)
        spread = np.cumsum(_pooled_variance(self.pooled) * share * (1 - share))
        return course, normal_quantile(level) * np.sqrt(spread)


def log_rank(data: FollowUp, group: IntArray, groups: int) -> LogRank:
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
    v = _pooled_variance(pooled)
    variance = -(share * v[:, None]).T @ share
    np.fill_diagonal(variance, (share * (1 - share)).T @ v)
    test = _quadratic_form(observed - expected, variance, share[v > 0] > 0)
    return LogRank(pooled, at_risk, events, observed, expected, variance, test)


def _pooled_variance(pooled: RiskTable) -> FloatArray:
    n, d = pooled.at_risk.astype(np.float64), pooled.events.astype(np.float64)
    return np.divide(d * (n - d), n - 1, out=np.zeros_like(n), where=n > 1)


def _quadratic_form(u: FloatArray, v: FloatArray, linked: np.ndarray) -> Test:
    """Uᵀ V⁻ U, dropping one group of each component of the graph of groups at risk together."""
    meets = csr_array((linked.T.astype(np.float64) @ linked) > 0)
    components, label = connected_components(meets, directed=False)
    df = u.size - components
    if df == 0:
        return Test(None, 0, None, "no two groups are at risk together at an event time")
    first_of_component = np.zeros(u.size, dtype=bool)
    first_of_component[np.unique(label, return_index=True)[1]] = True
    kept = ~first_of_component
    scale = np.sqrt(np.diag(v)[kept])
    scaled = u[kept] / scale
    inner = v[np.ix_(kept, kept)] / np.outer(scale, scale)
    return chi_squared(float(scaled @ np.linalg.solve(inner, scaled)), df)


@dataclass(frozen=True, slots=True)
class CurveDifference:
    """Difference B − A of two independent curves over the event times of either, up to the earlier end.

    Attributes:
        time: (m,) times, ascending.
        difference, lower, upper: (m,) S_B − S_A with the plain interval; limits NaN once either S is 0.
        band_low, band_high: (m,) the difference band: centred on the curves' midpoint, half as
            high as the interval. It covers both curves exactly when the interval contains 0.
    """

    time: FloatArray
    difference: FloatArray
    lower: FloatArray
    upper: FloatArray
    band_low: FloatArray
    band_high: FloatArray


def curve_difference(a: SurvivalCurve, b: SurvivalCurve) -> CurveDifference:
    """Difference and difference band of two independent curves
    (methods.md, section 2: Survival curve)."""
    end = min(a.table.last, b.table.last)
    time = np.unique(np.concatenate([[0.0], a.table.time, b.table.time]))
    time = time[time <= end]
    (s_a, var_a), (s_b, var_b) = _step_values(a, time), _step_values(b, time)
    half = normal_quantile(a.level) * np.sqrt(var_a + var_b)
    middle, difference = (s_a + s_b) / 2, s_b - s_a
    return CurveDifference(
        time, difference, difference - half, difference + half, middle - half / 2, middle + half / 2
    )


def _step_values(curve: SurvivalCurve, time: FloatArray) -> tuple[FloatArray, FloatArray]:
    j = np.searchsorted(curve.table.time, time, side="right")
    survival = np.concatenate([[1.0], curve.survival])[j]
    sigma2 = np.concatenate([[0.0], curve.sigma2])[j]
    return survival, survival**2 * sigma2


CROSSING = 2.81
"""Standard errors by which one curve must lie above and, at another time, below the other."""
FEWEST_AT_RISK = 10


@dataclass(frozen=True, slots=True)
class Crossing:
    """The first times at which curve B lies above curve A, and below it, by more than chance."""

    above: float
    below: float


def crossing(
    data_a: FollowUp, data_b: FollowUp, a: SurvivalCurve, b: SurvivalCurve
) -> Crossing | None:
    """Whether the curves of two groups cross (methods.md, section 3: Comparing groups).

    They do when, over the event times of either with at least 10 at risk in both, neither curve at 0
    and not both at 1, their difference is at least 2.81 standard errors above 0 at one time and as
    far below it at another.
    """
    time = np.union1d(a.table.time, b.table.time)
    (s_a, var_a), (s_b, var_b) = _step_values(a, time), _step_values(b, time)
    enough = (number_at_risk(data_a, time) >= FEWEST_AT_RISK) & (
        number_at_risk(data_b, time) >= FEWEST_AT_RISK
    )
    counts = enough & (s_a > 0) & (s_b > 0) & ~((s_a == 1) & (s_b == 1))
    apart = (s_b - s_a)[counts] / np.sqrt((var_a + var_b)[counts])
    above, below = time[counts][apart >= CROSSING], time[counts][apart <= -CROSSING]
    return Crossing(float(above[0]), float(below[0])) if above.size and below.size else None
